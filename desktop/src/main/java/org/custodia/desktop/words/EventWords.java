package org.custodia.desktop.words;

import java.util.Optional;
import org.custodia.core.access.Credential;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.command.DoorDesk;
import org.custodia.core.door.GrantOutcome;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Gaps;
import org.custodia.core.event.Kinds;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.Side;
import org.custodia.core.site.Sites;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** Says what an event was, for lists and strips. */
public final class EventWords {
    private static final Texts TEXTS = Texts.of(EventWords.class);

    private final PersonRegister people;
    private final Sites sites;

    public EventWords(PersonRegister people, Sites sites) {
        this.people = people;
        this.sites = sites;
    }

    /** Who it was: as the system said, else as the badge was given out then. */
    public Optional<Person> person(Event event) {
        return onFile(event).value();
    }

    /** The same, with how sure that is. */
    public OnFile<Person> onFile(Event event) {
        if (event.person().isPresent()) {
            OnFile<Person> said = people.person(event.person().get(), event.time());
            if (said.value().isPresent() || event.credential().isEmpty()) {
                return said;
            }
        }
        if (event.credential().isEmpty()) {
            return OnFile.notThen();
        }
        return people.credential(
                        event.key().system(),
                        event.credential().get(),
                        event.detail("credential-kind").map(Credential.Kind::of),
                        event.time())
                .flatMap(c -> people.person(c.person(), event.time()));
    }

    /** Short, for a strip. */
    public String who(Event event) {
        Optional<Person> person = person(event);
        if (person.isPresent()) {
            return person.get().shortName();
        }
        EventKind kind = event.kind();
        if (kind.equals(Kinds.RELEASED)) {
            return TEXTS.say("let-through");
        }
        if (kind.equals(Kinds.EXIT_REQUESTED)) {
            return TEXTS.say("exit-button");
        }
        if (event.detail("credential-kind").equals(Optional.of("door-code"))) {
            return TEXTS.say("door-code");
        }
        if (event.credential().isPresent()) {
            return TEXTS.say("badge", event.credential().get());
        }
        return kind.equals(Kinds.FORCED) || kind.equals(Kinds.OPENED) ? TEXTS.say("no-badge") : Names.kind(kind);
    }

    /** In full, for a list. */
    public String subject(Event event) {
        Optional<Person> person = person(event);
        if (person.isPresent()) {
            return person.get().name();
        }
        boolean atDoor = event.kind().equals(Kinds.FORCED)
                || event.kind().equals(Kinds.HELD)
                || event.kind().id().startsWith("command.");
        return atDoor ? door(event).map(Door::name).orElse(who(event)) : capital(who(event));
    }

    /** What became of it. */
    public String result(Event event, GrantOutcome outcome) {
        EventKind kind = event.kind();
        if (kind.equals(Kinds.GRANTED)) {
            if (outcome == GrantOutcome.NOBODY_ENTERED || outcome == GrantOutcome.CANNOT_TELL) {
                return TEXTS.say(outcome == GrantOutcome.NOBODY_ENTERED ? "nobody-entered" : "cannot-tell");
            }
            return way(event, TEXTS.say("in"), TEXTS.say("out"), TEXTS.say("granted"));
        }
        if (kind.equals(Kinds.REFUSED)) {
            return event.reason()
                    .map(r -> TEXTS.say("refused-why", Names.reason(r)))
                    .orElse(TEXTS.say("refused"));
        }
        if (kind.id().startsWith("command.")) {
            String command = event.detail("command").map(Names::command).orElse("");
            String words = event.detail(DoorDesk.SAID)
                    .or(() -> event.detail("words"))
                    .map(SayingWords::ofText)
                    .orElse(Names.stage(kind));
            return command + ", " + words;
        }
        if (kind.equals(Kinds.OPENED)) {
            return TEXTS.say("passed");
        }
        if (kind.equals(Kinds.LINK_LOST) || kind.equals(Kinds.LINK_CLOSED)) {
            return event.detail("said")
                    .or(event::reason)
                    .map(SayingWords::ofText)
                    .orElse(Names.kind(kind));
        }
        if (kind.equals(Kinds.GAP) || kind.equals(Kinds.GAP_CLOSED) || kind.equals(Kinds.COUNTS_AGAIN)) {
            return numbers(event);
        }
        return Names.kind(kind);
    }

    /** What happened to the numbers of a system's events. */
    private static String numbers(Event event) {
        String from = event.detail("from").orElse("?");
        String to = event.detail("to").orElse("?");
        if (event.kind().equals(Kinds.COUNTS_AGAIN)) {
            return TEXTS.say("counts-again", from, to);
        }
        String which = from.equals(to) ? TEXTS.say("event-number", from) : TEXTS.say("event-numbers", from, to);
        if (event.kind().equals(Kinds.GAP_CLOSED)) {
            return TEXTS.say("gap-closed", which);
        }
        return TEXTS.say(
                event.reason().equals(Optional.of(Gaps.NOT_KEPT)) ? "gap-not-kept" : "gap-not-delivered", which);
    }

    private static String way(Event event, String in, String out, String unknown) {
        return event.side().map(s -> s == Side.ENTRY ? in : out).orElse(unknown);
    }

    public Optional<Door> door(Event event) {
        return event.door().flatMap(sites.at(event.time())::door);
    }

    /** The device that is no door, at which it was. */
    private Optional<Device> device(Event event) {
        return event.detail("unit")
                .map(u -> event.key().system() + "/" + u)
                .filter(DeviceId::fits)
                .flatMap(id -> sites.at(event.time()).device(new DeviceId(id)));
    }

    /** Where it was. */
    public String place(Event event) {
        return door(event)
                .map(Door::name)
                .or(() -> event.detail("camera").flatMap(c -> sites.get()
                        .camera(new org.custodia.core.site.CameraId(c))
                        .map(k -> k.name())))
                .or(() -> device(event).map(Device::name))
                .or(() -> event.detail("unit"))
                .or(() -> event.controller().map(c -> TEXTS.say("controller", c.value())))
                .or(() -> event.detail("system"))
                .orElse("");
    }

    /** Why somebody was refused: in the words of the system, as a quotation, or else the reason it gave. */
    public Optional<String> why(Event event) {
        return event.detail("explanation")
                .map(e -> SayingWords.of(Saying.quoted(e)))
                .or(() -> event.reason().map(Names::reason).map(EventWords::capital));
    }

    /** With a capital at the beginning. */
    public static String capital(String words) {
        return words.isEmpty() ? words : Character.toUpperCase(words.charAt(0)) + words.substring(1);
    }
}
