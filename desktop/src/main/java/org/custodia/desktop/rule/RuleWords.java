package org.custodia.desktop.rule;

import com.ibm.icu.text.ListFormatter;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.format.TextStyle;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import org.custodia.core.access.Timetable;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Priority;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.Names;

/** Says a rule as a sentence, clause by clause. */
public final class RuleWords {
    private static final Texts TEXTS = Texts.of(RuleWords.class);
    /** More than so many are counted instead of named. */
    private static final int MOST_NAMED = 4;

    private final Desk desk;

    public RuleWords(Desk desk) {
        this.desk = desk;
    }

    /** What a rule is called, by its id where it ships, and as the site calls it otherwise. */
    public static String name(String id, String name) {
        Optional<Rule> shipped =
                Rule.shipped().stream().filter(r -> r.id().equals(id)).findFirst();
        return shipped.filter(r -> r.name().equals(name)).isPresent()
                ? TEXTS.known("name." + id).orElse(name)
                : name;
    }

    static String name(Rule rule) {
        return name(rule.id(), rule.name());
    }

    /** The whole of it in a sentence. */
    String sentence(Rule rule) {
        return TEXTS.say(
                "sentence",
                what(rule.when()),
                where(rule.where()),
                who(rule.who()),
                during(rule.during()),
                rule.where().anywhere() ? "any" : "some",
                rule.who().equals(Rule.Who.ANYBODY) ? "any" : "some",
                rule.during().equals(Hours.ALWAYS) ? "any" : "some",
                rule.when() instanceof Rule.Once once && !once.endedBy().isEmpty() ? kinds(once.endedBy()) : "",
                rule.when() instanceof Rule.Once once && !once.endedBy().isEmpty() ? "lasts" : "moment",
                holding(rule.holding()),
                rule.holding().isPresent() ? "some" : "any");
    }

    private static String any(Collection<String> some) {
        return ListFormatter.getInstance(Texts.language(), ListFormatter.Type.OR, ListFormatter.Width.WIDE)
                .format(some);
    }

    private static String all(Collection<String> some) {
        return ListFormatter.getInstance(Texts.language(), ListFormatter.Type.AND, ListFormatter.Width.WIDE)
                .format(some);
    }

    private static <T> List<String> sorted(Set<T> some, Function<T, String> name) {
        return List.copyOf(new TreeSet<>(some.stream().map(name).toList()));
    }

    private static String kinds(Set<EventKind> kinds) {
        return any(sorted(kinds, Names::kind));
    }

    String what(Rule.When when) {
        String kinds = kinds(when.kinds());
        if (when instanceof Rule.Once once) {
            return once.reasons().isEmpty() ? kinds : TEXTS.say("because", kinds, reasons(once.reasons()));
        }
        if (when instanceof Rule.Often often) {
            String these = often.reasons().isEmpty() ? kinds : TEXTS.say("because", kinds, reasons(often.reasons()));
            String counted = TEXTS.say(
                    "often",
                    these,
                    often.times(),
                    span(often.within()),
                    often.per().name().toLowerCase(Locale.ROOT));
            String doors = often.differentDoors() ? TEXTS.say("at-different-doors", counted) : counted;
            return often.unless().isEmpty() ? doors : TEXTS.say("in-a-row", doors, kinds(often.unless()));
        }
        if (when instanceof Rule.Unfollowed unfollowed) {
            return TEXTS.say(
                    unfollowed.samePerson() ? "unfollowed-by-person" : "unfollowed",
                    kinds,
                    kinds(unfollowed.by()),
                    span(unfollowed.within()));
        }
        Rule.TooFar far = (Rule.TooFar) when;
        return TEXTS.say("too-far", kinds, far.percent());
    }

    private static String reasons(Set<String> reasons) {
        return any(sorted(reasons, Names::reason));
    }

    /** A length of time in the unit that it is a whole number of. */
    static String span(Duration d) {
        long seconds = d.toSeconds();
        if (seconds % 3_600 == 0 && seconds > 0) {
            return TEXTS.say("hours", seconds / 3_600);
        }
        return seconds % 60 == 0 && seconds > 0 ? TEXTS.say("minutes", seconds / 60) : TEXTS.say("seconds", seconds);
    }

    public String where(Rule.Where where) {
        if (where.anywhere()) {
            return TEXTS.say("anywhere");
        }
        List<String> names = new ArrayList<>();
        names.addAll(sorted(where.sites(), this::site));
        names.addAll(sorted(where.zones(), this::zone));
        names.addAll(sorted(where.doors(), this::door));
        names.addAll(sorted(where.devices(), this::device));
        names.addAll(sorted(where.systems(), this::system));
        if (names.isEmpty()) {
            return devices(TEXTS.say("anywhere"), where);
        }
        return devices(places(names), where);
    }

    private static String places(List<String> names) {
        return names.size() > MOST_NAMED
                ? TEXTS.say("at-many", any(names.subList(0, MOST_NAMED - 1)), names.size() - MOST_NAMED + 1)
                : TEXTS.say("at", any(names));
    }

    /** The same, narrowed to kinds of devices. */
    private static String devices(String places, Rule.Where where) {
        String of = where.deviceKinds().isEmpty()
                ? places
                : TEXTS.say("devices-of", places, any(sorted(where.deviceKinds(), RuleWords::deviceKind)));
        return where.exceptDeviceKinds().isEmpty()
                ? of
                : TEXTS.say("devices-except", of, all(sorted(where.exceptDeviceKinds(), RuleWords::deviceKind)));
    }

    static String deviceKind(String kind) {
        return TEXTS.known("device." + kind).orElse(kind);
    }

    /** While which state holds. */
    String holding(Optional<Rule.Holding> holding) {
        return holding.map(h -> TEXTS.say(
                        "while",
                        kinds(h.begins()),
                        kinds(h.ends()),
                        h.extent().name().toLowerCase(Locale.ROOT)))
                .orElseGet(() -> TEXTS.say("while-any"));
    }

    public String zone(Rule.Zone zone) {
        return TEXTS.say("zone-of", zone.name(), site(zone.site()));
    }

    String site(SiteId id) {
        return desk.services().sites().get().sites().stream()
                .filter(s -> s.id().equals(id))
                .findFirst()
                .map(Site::name)
                .orElse(id.value());
    }

    public String door(DoorId id) {
        return desk.services().sites().get().door(id).map(Door::name).orElseGet(() -> TEXTS.say("gone", id.value()));
    }

    String device(DeviceId id) {
        return desk.services()
                .sites()
                .get()
                .device(id)
                .map(Device::name)
                .orElseGet(() -> TEXTS.say("gone", id.value()));
    }

    String system(SystemId id) {
        return desk.services().links().get().stream()
                .filter(l -> l.system().equals(id))
                .findFirst()
                .map(LinkStatus::name)
                .orElse(id.value());
    }

    public String person(PersonId id) {
        return desk.services()
                .workplace()
                .people()
                .person(id, desk.now())
                .value()
                .map(p -> p.name())
                .orElseGet(() -> TEXTS.say("gone", id.value()));
    }

    String who(Rule.Who who) {
        if (who.unknown()) {
            return TEXTS.say("unknown");
        }
        if (who.equals(Rule.Who.ANYBODY)) {
            return TEXTS.say("anybody");
        }
        String of = who.of().isEmpty() ? TEXTS.say("anybody") : people(who.of());
        return who.except().isEmpty() ? of : TEXTS.say("except", of, people(who.except()));
    }

    private String people(Rule.People some) {
        List<String> names = new ArrayList<>(sorted(some.kinds(), RuleWords::kindOfPerson));
        names.addAll(sorted(some.companies(), c -> TEXTS.say("of-company", c)));
        names.addAll(sorted(some.people(), this::person));
        return names.size() > MOST_NAMED
                ? TEXTS.say("by-many", any(names.subList(0, MOST_NAMED - 1)), names.size() - MOST_NAMED + 1)
                : TEXTS.say("by", any(names));
    }

    static String kindOfPerson(String kind) {
        return TEXTS.known("person." + kind).orElse(kind);
    }

    String during(Hours hours) {
        String spans = hours.spans().isEmpty()
                ? TEXTS.say("always")
                : any(hours.spans().stream().map(RuleWords::span).toList());
        String words = TEXTS.say("during", spans, hours.holidays().name().toLowerCase(Locale.ROOT));
        return hours.within()
                .map(w -> TEXTS.say("during-within", words, within(w)))
                .orElse(words);
    }

    private static String span(Hours.Span span) {
        List<DayOfWeek> days = span.days().stream().sorted().toList();
        String named = days.size() == 7
                ? TEXTS.say("every-day")
                : run(days)
                        ? TEXTS.say("from-to", day(days.get(0)), day(days.get(days.size() - 1)))
                        : all(days.stream().map(RuleWords::day).toList());
        boolean whole = span.from().equals(span.to());
        return whole
                ? TEXTS.say("all-day", named)
                : TEXTS.say("span", named, span.from().toString(), span.to().toString());
    }

    /** Three days or more, one after the other. */
    private static boolean run(List<DayOfWeek> days) {
        return days.size() > 2
                && days.get(days.size() - 1).getValue() - days.get(0).getValue() == days.size() - 1;
    }

    static String day(DayOfWeek day) {
        return day.getDisplayName(TextStyle.SHORT, Texts.language());
    }

    public static String priority(Priority priority) {
        return TEXTS.say("priority." + priority.name().toLowerCase(Locale.ROOT));
    }

    String over(Set<EventKind> endedBy) {
        return endedBy.isEmpty() ? TEXTS.say("over-at-once") : kinds(endedBy);
    }

    String then(Rule.Then then) {
        List<String> parts = new ArrayList<>();
        if (then.forward()) {
            parts.add(TEXTS.say("forward"));
        }
        if (then.sound()) {
            parts.add(TEXTS.say("sound"));
        }
        then.orders().forEach(o -> parts.add(order(o)));
        for (Rule.At at : Rule.At.values()) {
            List<String> told = then.told(at).stream().map(this::receiver).toList();
            if (!told.isEmpty()) {
                parts.add(TEXTS.say(at == Rule.At.START ? "tell-start" : "tell-end", all(told)));
            }
        }
        return parts.isEmpty() ? TEXTS.say("quiet") : all(parts);
    }

    private static String command(DoorCommand command) {
        return command instanceof DoorCommand.ShowText show ? TEXTS.say("shows", show.text()) : Names.command(command);
    }

    /** Within a timetable, or outside it. */
    String within(Hours.Within within) {
        String name = desk.services().workplace().rules().timetables().stream()
                .filter(t -> t.id().equals(within.timetable()))
                .findFirst()
                .map(Timetable::name)
                .orElseGet(() -> TEXTS.say("gone", within.timetable()));
        return TEXTS.say(within.outside() ? "outside-timetable" : "within-timetable", name);
    }

    /** What a receiver is called. */
    String receiver(String id) {
        String name = desk.services().workplace().messages().names().get(id);
        return name == null ? TEXTS.say("gone", id) : name;
    }

    private String order(Rule.Order order) {
        return TEXTS.say(
                order.at() == Rule.At.START ? "order-start" : "order-end",
                order.door().map(this::door).orElse(TEXTS.say("here")),
                command(order.command()));
    }
}
