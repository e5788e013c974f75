package org.custodia.core.operator;

import java.util.EnumSet;
import java.util.Set;
import org.custodia.core.site.SiteId;

/**
 * Who acts, from where, and what they may do. Every service that changes or reveals something takes one.
 *
 * @param operator sign-in name
 * @param name as shown
 * @param desk the desk they sit at
 * @param sites the sites they may see; empty means all
 */
public record Actor(String operator, String name, String desk, Set<Permission> permissions, Set<SiteId> sites) {
    public Actor {
        permissions = Set.copyOf(permissions);
        sites = Set.copyOf(sites);
    }

    /** An actor who may do everything everywhere. */
    public static Actor withAll(String operator, String name, String desk) {
        return new Actor(operator, name, desk, EnumSet.allOf(Permission.class), Set.of());
    }

    public boolean may(Permission permission, SiteId site) {
        return permissions.contains(permission) && (sites.isEmpty() || sites.contains(site));
    }

    /**
     * Stops anybody who may not.
     *
     * @throws NotPermittedException if this actor may not do that at that site
     */
    public void require(Permission permission, SiteId site) {
        if (!may(permission, site)) {
            throw new NotPermittedException(name + " may not " + permission.words() + " at this site.");
        }
    }
}
