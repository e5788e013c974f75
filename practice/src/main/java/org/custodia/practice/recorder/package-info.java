/**
 * The recorders of the practice site: live pictures, footage and stills, encoded on demand. Begin with {@link
 * org.custodia.practice.recorder.Recorder}; a camera that somebody watches has a thread of its own.
 */
package org.custodia.practice.recorder;
