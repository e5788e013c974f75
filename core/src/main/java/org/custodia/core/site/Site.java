package org.custodia.core.site;

import java.time.ZoneId;

/**
 * A place with one time zone.
 *
 * @param timeZone the zone in which the site's times are shown
 */
public record Site(SiteId id, String name, ZoneId timeZone) {}
