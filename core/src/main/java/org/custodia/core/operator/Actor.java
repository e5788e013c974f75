package org.custodia.core.operator;

import java.util.Collection;
import java.util.EnumMap;
import java.util.EnumSet;
import java.util.Map;
import org.custodia.core.site.SiteId;

/**
 * Who acts, from where, and what they may do. Every service that changes or reveals something takes one.
 *
 * @param operator sign-in name
 * @param name as shown
 * @param desk the desk they sit at
 * @param grants what they may do; what is not there they may not
 */
public record Actor(String operator, String name, String desk, Map<Permission, Grant> grants) {
    public Actor {
        grants = Map.copyOf(grants);
    }

    /** How far a permission goes, where that makes a difference. */
    public enum Level {
        /** To see what is there. */
        LOOK,
        /** To see it and to change it, or to do it. */
        CHANGE
    }

    /** One permission: where it holds, and how far it goes. */
    public record Grant(SiteScope where, Level level) {}

    /** An actor who may do everything everywhere. */
    public static Actor withAll(String operator, String name, String desk) {
        return with(operator, name, desk, EnumSet.allOf(Permission.class), SiteScope.everywhere());
    }

    /** An actor who may do some things, all of them at the same sites. */
    public static Actor with(
            String operator, String name, String desk, Collection<Permission> permissions, SiteScope where) {
        Map<Permission, Grant> grants = new EnumMap<>(Permission.class);
        permissions.forEach(p -> grants.put(p, new Grant(where, Level.CHANGE)));
        return new Actor(operator, name, desk, grants);
    }

    /** Whether this actor may do, or change, something at a site. */
    public boolean may(Permission permission, SiteId site) {
        Grant grant = grants.get(permission);
        return grant != null && grant.level() == Level.CHANGE && grant.where().includes(site);
    }

    /** Whether this actor may at least see it there. */
    public boolean mayLook(Permission permission, SiteId site) {
        Grant grant = grants.get(permission);
        return grant != null && grant.where().includes(site);
    }

    /** Whether this actor may at least see it at some site. */
    public boolean mayLookSomewhere(Permission permission) {
        Grant grant = grants.get(permission);
        return grant != null && (grant.where().all() || !grant.where().sites().isEmpty());
    }

    /** Whether this actor may do, or change, it at some site. */
    public boolean maySomewhere(Permission permission) {
        Grant grant = grants.get(permission);
        return grant != null && grant.level() == Level.CHANGE && mayLookSomewhere(permission);
    }

    /** Whether this actor may at least see what of it belongs to no single site. */
    public boolean mayLookEverywhere(Permission permission) {
        Grant grant = grants.get(permission);
        return grant != null && grant.where().all();
    }

    /** Whether this actor may do something that belongs to no single site. */
    public boolean mayEverywhere(Permission permission) {
        Grant grant = grants.get(permission);
        return grant != null && grant.level() == Level.CHANGE && grant.where().all();
    }

    /**
     * Stops anybody who may not.
     *
     * @throws NotPermittedException if this actor may not do that at that site
     */
    public void require(Permission permission, SiteId site) {
        if (!may(permission, site)) {
            throw NotPermittedException.here(name, permission.saying());
        }
    }

    /**
     * Stops anybody who may not even look.
     *
     * @throws NotPermittedException if this actor may not see that at every site
     */
    public void requireToLookEverywhere(Permission permission) {
        if (!mayLookEverywhere(permission)) {
            throw NotPermittedException.everywhere(name, permission.saying());
        }
    }

    /**
     * Stops anybody who may not.
     *
     * @throws NotPermittedException if this actor may not do that at every site
     */
    public void requireEverywhere(Permission permission) {
        if (!mayEverywhere(permission)) {
            throw NotPermittedException.everywhere(name, permission.saying());
        }
    }
}
