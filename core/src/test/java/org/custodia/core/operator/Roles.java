package org.custodia.core.operator;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.custodia.core.operator.Actor.Grant;
import org.custodia.core.operator.Actor.Level;
import org.custodia.core.site.SiteId;

/** Every kind of operator that differs in one thing from another: each permission, at each level, everywhere, somewhere or nowhere. */
public final class Roles {
    private Roles() {}

    /** An operator with one permission or none. */
    public record Role(Permission permission, Level level, SiteScope where) {
        public Actor actor() {
            return new Actor(toString(), "Somebody", "desk", Map.of(permission, new Grant(where, level)));
        }

        /** Whether this is one of those permissions at that site, or, without one, everywhere. */
        public boolean has(Set<Permission> some, Level atLeast, SiteId site) {
            boolean there = site == null ? where.all() : where.includes(site);
            return some.contains(permission) && level.compareTo(atLeast) >= 0 && there;
        }

        /** Whether this is one of those permissions at any site. */
        public boolean hasSomewhere(Set<Permission> some) {
            return some.contains(permission) && (where.all() || !where.sites().isEmpty());
        }

        @Override
        public String toString() {
            String at = where.all() ? "everywhere" : where.sites().toString();
            return level + " " + permission + " at " + at;
        }
    }

    /** All of them, for some sites. */
    public static List<Role> all(Collection<SiteId> sites) {
        List<SiteScope> scopes = new ArrayList<>(List.of(SiteScope.everywhere(), SiteScope.nowhere()));
        sites.forEach(s -> scopes.add(SiteScope.at(s)));
        scopes.add(SiteScope.at(sites.toArray(SiteId[]::new)));
        List<Role> roles = new ArrayList<>();
        for (Permission permission : Permission.values()) {
            for (Level level : Level.values()) {
                scopes.forEach(s -> roles.add(new Role(permission, level, s)));
            }
        }
        return roles;
    }
}
