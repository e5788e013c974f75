package org.custodia.core.site;

/**
 * Names one site, a place with one time zone.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record SiteId(String value) {
    public SiteId {
        Ids.check(value);
    }

    @Override
    public String toString() {
        return value;
    }
}
