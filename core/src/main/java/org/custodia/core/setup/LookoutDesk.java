package org.custodia.core.setup;

import java.time.Clock;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.OnRecord;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;

/** Where it is said which cameras show inputs, call stations, other devices and zones, and whether that was tried. */
public final class LookoutDesk {
    private final LookoutBook book;
    private final Sites sites;
    private final PairDesk pairs;
    private final EventIntake intake;
    private final Clock clock;

    /**
     * @param pairs follows what was tried
     */
    public LookoutDesk(LookoutBook book, Sites sites, PairDesk pairs, EventIntake intake, Clock clock) {
        this.book = book;
        this.sites = sites;
        this.pairs = pairs;
        this.intake = intake;
        this.clock = clock;
    }

    /**
     * Says that a camera shows something, or from when on it is played otherwise than before.
     *
     * @throws SetupException if camera or device are not there
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where both are
     */
    public void shows(Lookout lookout, Actor actor) {
        permit(lookout, actor);
        if (sites.get().lookouts().contains(lookout)) {
            return;
        }
        book.keepLookout(
                lookout.key(),
                Optional.of(lookout),
                book.lookoutVersion(lookout.key()),
                actor,
                fact("shows", lookout, actor));
    }

    /** Says that a camera does not show something any more; otherwise the same. */
    public void showsNoMore(Lookout lookout, Actor actor) {
        permit(lookout, actor);
        if (!sites.get().lookouts().contains(lookout)) {
            throw new SetupException(Saying.of("setup.no-pair"));
        }
        book.keepLookout(
                lookout.key(),
                Optional.empty(),
                book.lookoutVersion(lookout.key()),
                actor,
                fact("shows-no-more", lookout, actor));
    }

    private void permit(Lookout lookout, Actor actor) {
        SiteModel model = sites.get();
        CameraId id = lookout.camera();
        Camera camera =
                model.camera(id).orElseThrow(() -> new SetupException(Saying.of("setup.no-camera", id.value())));
        actor.require(Permission.SET_UP, camera.site());
        actor.require(Permission.SET_UP, siteOf(lookout, model));
    }

    private static SiteId siteOf(Lookout lookout, SiteModel model) {
        if (lookout.of() instanceof Lookout.OfZone zone) {
            if (model.sites().stream().noneMatch(s -> s.id().equals(zone.site()))) {
                throw new SetupException(Saying.of("setup.no-site", zone.site().value()));
            }
            return zone.site();
        }
        DeviceId id = ((Lookout.OfDevice) lookout.of()).device();
        return model.device(id)
                .map(Device::site)
                .orElseThrow(() -> new SetupException(Saying.of("setup.thing-unknown", id.value())));
    }

    private Event.Builder fact(String change, Lookout lookout, Actor actor) {
        return OnRecord.setUp("lookout", change, actor, clock.instant())
                .detail("camera", lookout.camera().value())
                .detail("of", lookout.of().key().replace('\n', ' '));
    }

    /**
     * Keeps what somebody said when a device was tripped and its picture was played.
     *
     * @throws SetupException if the camera does not show it any more
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where both are
     */
    public CompletableFuture<Event> tried(Lookout lookout, Trial trial, Actor actor) {
        permit(lookout, actor);
        if (!sites.get().lookouts().contains(lookout)) {
            throw new SetupException(Saying.of("setup.no-pair"));
        }
        return intake.record(trial.onRecord(OnRecord.by(actor, Trial.KIND, clock.instant())));
    }

    /**
     * What came of the latest trial, if it was ever tried.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see what is set up there
     */
    public Optional<Trial> trial(Lookout lookout, Actor actor) {
        SiteId site = siteOf(lookout, sites.get());
        if (!actor.mayLook(Permission.SET_UP, site)) {
            throw NotPermittedException.here(actor.name(), Permission.SET_UP.saying());
        }
        return pairs.trialOf(lookout.pairId());
    }
}
