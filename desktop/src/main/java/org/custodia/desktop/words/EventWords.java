package org.custodia.desktop.words;

import java.util.Optional;
import org.custodia.core.access.Credential;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.GrantOutcome;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Gaps;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.Door;
import org.custodia.core.site.Side;
import org.custodia.core.site.Sites;

/** Says what an event was, for lists and strips. */
public final class EventWords {
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
            return "let through";
        }
        if (kind.equals(Kinds.EXIT_REQUESTED)) {
            return "exit button";
        }
        if (event.detail("credential-kind").equals(Optional.of("door-code"))) {
            return "door code";
        }
        if (event.credential().isPresent()) {
            return "badge " + event.credential().get();
        }
        return kind.equals(Kinds.FORCED) || kind.equals(Kinds.OPENED)
                ? "no badge"
                : Kinds.entry(kind).name();
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
                return outcome == GrantOutcome.NOBODY_ENTERED ? "nobody entered" : "cannot tell";
            }
            return way(event, "in", "out", "granted");
        }
        if (kind.equals(Kinds.REFUSED)) {
            return "refused" + event.reason().map(r -> ", " + Reasons.words(r)).orElse("");
        }
        if (kind.id().startsWith("command.")) {
            String command = event.detail("command").map(DoorCommand::wordsOf).orElse("command");
            String words = event.detail("words").orElse(Kinds.entry(kind).name().replace("command ", ""));
            return command + ", " + words;
        }
        if (kind.equals(Kinds.OPENED)) {
            return "passed";
        }
        if (kind.equals(Kinds.LINK_LOST)) {
            return event.reason().orElse(Kinds.entry(kind).name());
        }
        if (kind.equals(Kinds.GAP) || kind.equals(Kinds.GAP_CLOSED) || kind.equals(Kinds.COUNTS_AGAIN)) {
            return numbers(event);
        }
        return Kinds.entry(kind).name();
    }

    /** What happened to the numbers of a system's events. */
    private static String numbers(Event event) {
        String from = event.detail("from").orElse("?");
        String to = event.detail("to").orElse("?");
        String which = from.equals(to) ? "event " + from : "events " + from + " to " + to;
        if (event.kind().equals(Kinds.COUNTS_AGAIN)) {
            return "counts again from event " + from + ", after " + to;
        }
        if (event.kind().equals(Kinds.GAP_CLOSED)) {
            return which + " came after all";
        }
        return which + (event.reason().equals(Optional.of(Gaps.NOT_KEPT)) ? " no longer kept" : " not delivered");
    }

    private static String way(Event event, String in, String out, String unknown) {
        return event.side().map(s -> s == Side.ENTRY ? in : out).orElse(unknown);
    }

    public Optional<Door> door(Event event) {
        return event.door().flatMap(sites.at(event.time())::door);
    }

    /** Where it was. */
    public String place(Event event) {
        return door(event)
                .map(Door::name)
                .or(() -> event.detail("camera").flatMap(c -> sites.get()
                        .camera(new org.custodia.core.site.CameraId(c))
                        .map(k -> k.name())))
                .or(() -> event.detail("unit"))
                .or(() -> event.controller().map(c -> "controller " + c.value()))
                .or(() -> event.detail("system"))
                .orElse("");
    }

    /** One sentence on why somebody was refused, where the system gave one. */
    public Optional<String> why(Event event) {
        return event.detail("explanation")
                .or(() -> event.reason().map(Reasons::words).map(EventWords::capital));
    }

    /** With a capital at the beginning. */
    public static String capital(String words) {
        return words.isEmpty() ? words : Character.toUpperCase(words.charAt(0)) + words.substring(1);
    }
}
