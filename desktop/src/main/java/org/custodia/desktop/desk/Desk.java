package org.custodia.desktop.desk;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import javafx.beans.property.ReadOnlyLongProperty;
import javafx.beans.property.ReadOnlyLongWrapper;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.Event;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.notice.Notices;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.EventWords;
import org.custodia.desktop.words.Names;

/** One operator's desk: what all views show of, and what outlives a change of view. */
public final class Desk implements AutoCloseable {
    /** What lies no further back than this is now. */
    private static final Duration NOW = Duration.ofMillis(1_500);

    private final Services services;
    private final Settings settings;
    private final Work work;
    private final Notices notices;
    private final EventWords words;
    private final ReadOnlyObjectWrapper<Moment> moment = new ReadOnlyObjectWrapper<>(Moment.LIVE);
    private final ReadOnlyObjectWrapper<ZoneId> zone;
    private final LiveDoors live;
    private final LiveAlarms alarms;
    private static final Texts TEXTS = Texts.of(Desk.class);

    private final DoorCommands commands;
    private final AlarmBell bell;
    private final DoorstepModel doorstep;
    private final ReadOnlyObjectWrapper<Optional<Playing>> playing = new ReadOnlyObjectWrapper<>(Optional.empty());
    private final ReadOnlyLongWrapper meanings = new ReadOnlyLongWrapper();
    private long played;

    /**
     * @param work does what takes time; its owner closes it
     */
    public Desk(Services services, Settings settings, Work work) {
        this.services = services;
        this.settings = settings;
        this.work = work;
        this.notices = new Notices(work);
        this.words = new EventWords(services.people(), services.sites());
        this.zone = new ReadOnlyObjectWrapper<>(zoneOfMostDoors());
        this.live = new LiveDoors(services);
        this.alarms = new LiveAlarms(services);
        this.bell = new AlarmBell(services.outside().speaker(), settings);
        this.commands = new DoorCommands(services);
        this.doorstep = new DoorstepModel(this);
    }

    public Services services() {
        return services;
    }

    public Settings settings() {
        return settings;
    }

    /** Does what takes time away from the JavaFX thread. */
    public Work work() {
        return work;
    }

    /** What is said to the operator apart from what they look at, and work in the background. */
    public Notices notices() {
        return notices;
    }

    public EventWords words() {
        return words;
    }

    /** How the doors stand now, whatever moment is shown. */
    public LiveDoors live() {
        return live;
    }

    /** The alarms that are open now, whatever moment is shown. */
    public LiveAlarms alarms() {
        return alarms;
    }

    /** Has alarms heard. */
    public AlarmBell bell() {
        return bell;
    }

    public DoorCommands commands() {
        return commands;
    }

    /** Who stands, or just stood, at a door. */
    public DoorstepModel doorstep() {
        return doorstep;
    }

    /** What the picture of a door's camera is called here: what it sees of it, and whether that is in doubt. */
    public String called(Pairing pairing) {
        String view = Names.view(pairing.view());
        return inDoubt(pairing.door(), pairing.camera()) ? TEXTS.say("in-doubt", view) : view;
    }

    /** Whether a camera that should show a door does not seem to any more. */
    public boolean inDoubt(DoorId door, CameraId camera) {
        return services.workplace().pairs().inDoubt(door, camera);
    }

    // ---- playing

    /** What is being played; one thing at a time, whichever view shows it. */
    public ReadOnlyObjectProperty<Optional<Playing>> playing() {
        return playing.getReadOnlyProperty();
    }

    /** Plays an event of a door; whoever it was stays on the doorstep. */
    public void play(DoorId door, Event event) {
        doorstep.pin(event);
        playing.set(Optional.of(new Playing(++played, door, Optional.of(event), event.time())));
    }

    /** Shows a moment of a door, to be played from there. */
    public void playMoment(DoorId door, Instant at) {
        playing.set(Optional.of(new Playing(++played, door, Optional.empty(), at)));
    }

    public void stopPlaying() {
        playing.set(Optional.empty());
    }

    // ---- time

    /** The moment that is shown: now, or one that is looked back at. */
    public ReadOnlyObjectProperty<Moment> moment() {
        return moment.getReadOnlyProperty();
    }

    public Instant now() {
        return services.clock().instant();
    }

    /** The instant shown. */
    public Instant shown() {
        return moment.get().at(now());
    }

    /** Looks back at an instant; one that is not past returns to now. */
    public void lookBack(Instant at) {
        moment.set(at.isBefore(now().minus(NOW)) ? new Moment.At(at) : Moment.LIVE);
    }

    public void returnToNow() {
        moment.set(Moment.LIVE);
    }

    /** Goes up when what was read of the log means something else by now, and has to be read again. */
    public ReadOnlyLongProperty meanings() {
        return meanings.getReadOnlyProperty();
    }

    /** Has everything that was read of the log read again: it means something else by now. */
    public void reread() {
        meanings.set(meanings.get() + 1);
    }

    /** The zone that most doors lie in, in which common times are lettered. */
    public ReadOnlyObjectProperty<ZoneId> zoneProperty() {
        return zone.getReadOnlyProperty();
    }

    public ZoneId zone() {
        return zone.get();
    }

    private ZoneId zoneOfMostDoors() {
        SiteModel model = services.sites().get();
        Map<ZoneId, Long> doors = model.doors().stream()
                .collect(Collectors.groupingBy(d -> model.zoneOf(d.id()), LinkedHashMap::new, Collectors.counting()));
        return doors.entrySet().stream()
                .max(Map.Entry.comparingByValue())
                .map(Map.Entry::getKey)
                .orElse(ZoneId.systemDefault());
    }

    /** Takes notice that the places changed. */
    public void placesChanged() {
        zone.set(zoneOfMostDoors());
        live.refresh();
    }

    /**
     * Whether a link is still reading what happened while nobody listened, so that what is shown of it may lack something.
     */
    public boolean readsHistory() {
        return services.links().get().stream().anyMatch(s -> s.state() == LinkStatus.State.READING_BACKLOG);
    }

    /** Called several times a second: what changes as time passes. */
    public void tick() {
        live.tick();
        alarms.tick();
        bell.tick(alarms.unseen(), now());
        doorstep.tick();
    }

    @Override
    public void close() {
        doorstep.close();
        commands.close();
        bell.close();
        alarms.close();
        live.close();
    }
}
