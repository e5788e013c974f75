package org.custodia.core.setup;

import java.time.Clock;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import org.custodia.core.event.OnRecord;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;

/** Where it is seen who has set up what otherwise, and where that is taken back. */
public final class ChangeDesk {
    /** Changes of what other desks keep, and put back. */
    public interface Others extends ChangeBook {
        /**
         * Puts things back as they were before a change.
         *
         * @return whether it is a change of theirs
         * @throws org.custodia.core.event.EventLogException if something else was said since
         * @throws org.custodia.core.operator.NotPermittedException if the operator may not
         */
        boolean takesBack(Change change, Actor actor);

        /** No others. */
        static Others none() {
            return new Others() {
                @Override
                public List<Change> changes(int most) {
                    return List.of();
                }

                @Override
                public boolean takesBack(Change change, Actor actor) {
                    return false;
                }
            };
        }
    }

    private final ChangeBook.Undoing places;
    private final ChangeBook links;
    private final Others others;
    private final SetupDesk setup;
    private final Clock clock;

    /**
     * @param places changes of places and pairs
     * @param links changes of connections, which are taken back by the setup desk
     * @param others changes of what is kept elsewhere
     */
    public ChangeDesk(ChangeBook.Undoing places, ChangeBook links, Others others, SetupDesk setup, Clock clock) {
        this.others = others;
        this.places = places;
        this.links = links;
        this.setup = setup;
        this.clock = clock;
    }

    /**
     * The newest changes, the newest first.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see all that is set up
     */
    public List<ChangeBook.Change> changes(int most, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        List<ChangeBook.Change> all = new ArrayList<>(places.changes(most));
        all.addAll(links.changes(most));
        all.addAll(others.changes(most));
        all.sort(Comparator.comparing(ChangeBook.Change::when).reversed());
        return List.copyOf(all.subList(0, Math.min(most, all.size())));
    }

    /**
     * Puts things back as they were before a change.
     *
     * @throws SetupException if something else was said since
     * @throws org.custodia.core.event.EventLogException likewise, if that was just now
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not
     */
    public void takeBack(ChangeBook.Change change, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        if (!change.stands()) {
            throw new SetupException(Saying.of("setup.changed-since"));
        }
        if (change.about() == ChangeBook.About.LINK) {
            for (ChangeBook.Part part : change.parts()) {
                setup.putBack(part.id(), part.before().map(LinkSetup.class::cast), part.version(), actor);
            }
            return;
        }
        if (others.takesBack(change, actor)) {
            return;
        }
        places.takeBack(
                change,
                actor,
                OnRecord.setUp(change.about().name().toLowerCase(Locale.ROOT), "taken-back", actor, clock.instant())
                        .detail("records", String.valueOf(change.parts().size()))
                        .detail("first", change.parts().get(0).id())
                        .detail("by", change.by())
                        .detail("of", change.when().toString()));
    }
}
