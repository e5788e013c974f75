package org.custodia.desktop.message;

import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.BiPredicate;
import java.util.function.Supplier;
import org.custodia.core.access.Person;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Subject;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.message.Message;
import org.custodia.core.message.Occasion;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.rule.RuleWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.SubjectWords;

/** Says what a message says, in the language that the desk is in and at the time of the site. */
public final class MessageWords implements Message.Phrasing {
    private static final Texts TEXTS = Texts.of(MessageWords.class);

    private final Supplier<SiteModel> sites;
    private final Supplier<? extends Collection<LinkStatus>> links;
    private final BiPredicate<DoorId, CameraId> inDoubt;

    /**
     * @param links what systems are called
     * @param inDoubt whether a door and its camera are a pair in doubt
     */
    public MessageWords(
            Supplier<SiteModel> sites,
            Supplier<? extends Collection<LinkStatus>> links,
            BiPredicate<DoorId, CameraId> inDoubt) {
        this.sites = sites;
        this.links = links;
        this.inDoubt = inDoubt;
    }

    @Override
    public Message.Words of(Message message) {
        if (message.alarm().isEmpty()) {
            return new Message.Words(TEXTS.say("trial-subject"), TEXTS.say("trial-text"), "", "");
        }
        Alarm alarm = message.alarm().get();
        ZoneId zone = message.site().map(Site::timeZone).orElse(ZoneId.systemDefault());
        String what = RuleWords.name(alarm.origin().rule(), alarm.origin().name());
        String where = SubjectWords.where(alarm.calling().subject(), sites.get(), links.get());
        boolean over = message.occasion() == Occasion.ENDED;
        List<String> lines = new ArrayList<>();
        lines.add(TEXTS.say(
                over ? "line-over" : "line-raised",
                RuleWords.priority(alarm.origin().priority()),
                what,
                time(alarm.calling().at(), message.sent(), zone)));
        lines.add(message.site().map(s -> TEXTS.say("line-at", where, s.name())).orElse(where));
        message.person().ifPresent(p -> lines.add(TEXTS.say("line-person", person(p))));
        if (alarm.times() > 1) {
            lines.add(TEXTS.say("line-times", alarm.times()));
        }
        lines.add(standing(alarm, message.sent(), zone));
        message.picture()
                .ifPresent(p -> lines.add(TEXTS.say(
                        pictureInDoubt(alarm) ? "line-picture-in-doubt" : "line-picture",
                        time(p.at(), message.sent(), zone))));
        if (message.maybeBefore()) {
            lines.add(TEXTS.say("line-again", message.attempt()));
        }
        return new Message.Words(
                TEXTS.say(over ? "subject-over" : "subject", what, where), String.join("\n", lines), what, where);
    }

    private boolean pictureInDoubt(Alarm alarm) {
        Subject subject = alarm.calling().subject();
        Optional<Camera> camera = subject.camera(sites.get());
        return subject.door()
                .filter(d -> camera.filter(c -> inDoubt.test(d, c.id())).isPresent())
                .isPresent();
    }

    private static String person(Person person) {
        return person.company().isBlank() ? person.name() : person.name() + ", " + person.company();
    }

    private static String time(Instant at, Instant now, ZoneId zone) {
        return ClockWords.exact(at, now, zone);
    }

    private static String standing(Alarm alarm, Instant now, ZoneId zone) {
        String condition =
                switch (alarm.condition()) {
                    case ON -> TEXTS.say("condition-on");
                    case ENDED -> TEXTS.say("condition-ended");
                    case MOMENT -> "";
                    case UNWATCHED -> TEXTS.say("condition-unwatched");
                    case CONTRADICTED -> TEXTS.say("condition-contradicted");
                };
        String state =
                switch (alarm.state(now)) {
                    case NEW -> TEXTS.say("state-new");
                    case ACKNOWLEDGED ->
                        TEXTS.say(
                                "state-seen",
                                alarm.acknowledged().map(Alarm.By::name).orElse(""));
                    case IN_HAND ->
                        TEXTS.say(
                                "state-in-hand",
                                alarm.owner().map(Alarm.Owner::name).orElse(""));
                    case SHELVED ->
                        alarm.shelved()
                                .map(s -> TEXTS.say("state-shelved", s.by().name(), time(s.until(), now, zone)))
                                .orElse("");
                    case FINISHED ->
                        TEXTS.say(
                                "state-finished",
                                alarm.finished().map(f -> f.by().name()).orElse(""));
                };
        return condition.isEmpty() ? state : condition + " " + state;
    }
}
