package org.custodia.core.site;

/**
 * One picture a recorder keeps. A device with two lenses is two of these.
 *
 * @param recorder the recorder that has it
 */
public record Camera(CameraId id, SystemId recorder, String name, SiteId site) {}
