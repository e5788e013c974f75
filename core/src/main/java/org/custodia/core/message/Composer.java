package org.custodia.core.message;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.SiteModel;

/** Puts together what a message says, from what is known when it is sent. */
public final class Composer {
    /** Whoever opens a door is in it some moments later. */
    private static final Duration SEEN_AFTER = Duration.ofSeconds(2);

    private final AlarmDesk alarms;
    private final Supplier<SiteModel> sites;
    private final PersonRegister people;
    private final Stills stills;
    private final Message.Phrasing phrasing;
    private final Clock clock;

    /** Where pictures come from. */
    @FunctionalInterface
    public interface Stills {
        /**
         * One frame.
         *
         * @throws IOException if there is none, or not yet
         */
        RecorderLink.Still at(Camera camera, Instant instant) throws IOException;
    }

    public Composer(
            AlarmDesk alarms,
            Supplier<SiteModel> sites,
            PersonRegister people,
            Stills stills,
            Message.Phrasing phrasing,
            Clock clock) {
        this.alarms = alarms;
        this.sites = sites;
        this.people = people;
        this.stills = stills;
        this.phrasing = phrasing;
        this.clock = clock;
    }

    /** What is sent, and whether it lacks a picture that there may be in a moment. */
    record Composed(Message message, Message.Words words, boolean pictureMissing) {}

    /**
     * What is sent of an entry at this attempt.
     *
     * @throws NotSentException if there is nothing to say any more
     */
    Composed of(Outbox.Entry entry, Receiver.Way way) throws NotSentException {
        Alarm alarm = alarms.find(entry.slip().alarm(), entry.slip().raised())
                .orElseThrow(() -> new NotSentException(NotSentException.Why.REFUSED, Saying.of("message.alarm-gone")));
        SiteModel places = sites.get();
        Alarm.Occurrence calling = alarm.calling();
        Optional<Camera> camera = way instanceof Receiver.Mail mail
                        && mail.picture()
                        && entry.slip().occasion() == Occasion.RAISED
                ? calling.subject().camera(places)
                : Optional.empty();
        Optional<RecorderLink.Still> picture =
                camera.flatMap(c -> still(c, calling.at().plus(SEEN_AFTER)));
        Message message = new Message(
                entry.id(),
                entry.attempts() + 1,
                entry.maybe(),
                clock.instant(),
                entry.slip().occasion(),
                Optional.of(alarm),
                calling.subject().door().flatMap(places::door),
                calling.subject().site(places).flatMap(s -> places.sites().stream()
                        .filter(x -> x.id().equals(s))
                        .findFirst()),
                calling.person().flatMap(p -> people.person(p, calling.at()).value()),
                picture);
        return new Composed(message, phrasing.of(message), camera.isPresent() && picture.isEmpty());
    }

    private Optional<RecorderLink.Still> still(Camera camera, Instant at) {
        try {
            return Optional.of(stills.at(camera, at));
        } catch (IOException e) {
            // The words go without it.
            return Optional.empty();
        }
    }

    /**
     * One message in place of several, where there are too many for a person to read one by one: that of the last, with the
     * words of all.
     */
    Composed together(List<Composed> some) {
        Composed last = some.get(some.size() - 1);
        List<String> texts = new ArrayList<>();
        some.forEach(c -> texts.add(c.words().subject() + "\n" + c.words().text()));
        Message.Words words = last.words();
        return new Composed(
                last.message(),
                new Message.Words(
                        words.subject() + " (+" + (some.size() - 1) + ")",
                        String.join("\n\n", texts),
                        words.what(),
                        words.where()),
                false);
    }

    /** What is sent to try a receiver. */
    Composed trial(String id) {
        Message message = new Message(
                id,
                1,
                false,
                clock.instant(),
                Occasion.TRIAL,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
        return new Composed(message, phrasing.of(message), false);
    }
}
