package org.custodia.wire;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleSheets;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;

/** Rules of alarms as JSON: one by one as they are kept, and as a file to be taken elsewhere. */
public final class RulesFileForm implements RuleSheets {
    private static final String MARK = "custodia-rules";

    @Override
    public byte[] write(List<Rule> rules) {
        return Sheet.write(
                MARK, "rules", rules.stream().map(RulesFileForm::write).toList());
    }

    @Override
    public List<Rule> read(byte[] file) {
        return Sheet.read(file, MARK, "rules", RulesFileForm::read, Rule::id);
    }

    /** One rule, without its version. */
    public static ObjectNode write(Rule rule) {
        ObjectNode o = Wire.mapper().createObjectNode();
        o.put("id", rule.id())
                .put("name", rule.name())
                .put("on", rule.on())
                .put("priority", Sheet.word(rule.priority()));
        o.set("when", when(rule.when()));
        where(o, rule.where());
        if (!rule.who().equals(Rule.Who.ANYBODY)) {
            ObjectNode who = o.putObject("who");
            people(who, rule.who().of());
            if (!rule.who().except().isEmpty()) {
                people(who.putObject("except"), rule.who().except());
            }
            if (rule.who().unknown()) {
                who.put("unknown", true);
            }
        }
        if (!rule.during().equals(Hours.ALWAYS)) {
            ObjectNode during = o.putObject("during");
            ArrayNode spans = during.putArray("spans");
            for (Hours.Span span : rule.during().spans()) {
                ObjectNode one = spans.addObject();
                ArrayNode days = one.putArray("days");
                EnumSet.copyOf(span.days()).forEach(d -> days.add(Sheet.word(d)));
                one.put("from", span.from().toString()).put("to", span.to().toString());
            }
            during.put("holidays", Sheet.word(rule.during().holidays()));
            rule.during().within().ifPresent(w -> during.putObject("within")
                    .put("timetable", w.timetable())
                    .put("outside", w.outside()));
        }
        rule.holding().ifPresent(h -> {
            ObjectNode holding = o.putObject("holding");
            Sheet.texts(holding, "begins", h.begins(), EventKind::id);
            Sheet.texts(holding, "ends", h.ends(), EventKind::id);
            holding.put("extent", Sheet.word(h.extent()));
        });
        ObjectNode then = o.putObject("then")
                .put("forward", rule.then().forward())
                .put("sound", rule.then().sound());
        if (!rule.then().orders().isEmpty()) {
            ArrayNode orders = then.putArray("orders");
            for (Rule.Order order : rule.then().orders()) {
                ObjectNode one = orders.addObject().put("at", Sheet.word(order.at()));
                order.door().ifPresent(d -> one.put("door", d.value()));
                one.put("command", order.command().word());
                if (order.command() instanceof DoorCommand.ShowText show) {
                    one.put("text", show.text());
                }
            }
        }
        if (!rule.then().tells().isEmpty()) {
            ArrayNode tells = then.putArray("tells");
            rule.then().tells().forEach(t -> tells.addObject()
                    .put("at", Sheet.word(t.at()))
                    .put("receiver", t.receiver()));
        }
        return o;
    }

    private static void people(ObjectNode o, Rule.People some) {
        Sheet.texts(o, "people", some.people(), PersonId::value);
        Sheet.texts(o, "kinds", some.kinds(), k -> k);
        Sheet.texts(o, "companies", some.companies(), c -> c);
    }

    /** Adds where something has to happen; nothing for anywhere. */
    static void where(ObjectNode o, Rule.Where all) {
        if (!all.anywhere()) {
            ObjectNode where = o.putObject("where");
            Sheet.texts(where, "doors", all.doors(), DoorId::value);
            if (!all.zones().isEmpty()) {
                ArrayNode zones = where.putArray("zones");
                all.zones().stream()
                        .sorted((a, b) -> (a.site() + a.name()).compareTo(b.site() + b.name()))
                        .forEach(z ->
                                zones.addObject().put("site", z.site().value()).put("zone", z.name()));
            }
            Sheet.texts(where, "sites", all.sites(), SiteId::value);
            Sheet.texts(where, "systems", all.systems(), SystemId::value);
            Sheet.texts(where, "devices", all.devices(), DeviceId::value);
            Sheet.texts(where, "deviceKinds", all.deviceKinds(), k -> k);
            Sheet.texts(where, "exceptDeviceKinds", all.exceptDeviceKinds(), k -> k);
        }
    }

    private static ObjectNode when(Rule.When when) {
        ObjectNode o = Wire.mapper().createObjectNode();
        o.put("sort", sort(when));
        Sheet.texts(o, "kinds", when.kinds(), EventKind::id);
        if (when instanceof Rule.Once once) {
            Sheet.texts(o, "reasons", once.reasons(), r -> r);
            Sheet.texts(o, "endedBy", once.endedBy(), EventKind::id);
        } else if (when instanceof Rule.Often often) {
            Sheet.texts(o, "reasons", often.reasons(), r -> r);
            Sheet.texts(o, "unless", often.unless(), EventKind::id);
            o.put("times", often.times())
                    .put("withinSeconds", often.within().toSeconds())
                    .put("per", Sheet.word(often.per()));
            if (often.differentDoors()) {
                o.put("differentDoors", true);
            }
        } else if (when instanceof Rule.Unfollowed unfollowed) {
            Sheet.texts(o, "by", unfollowed.by(), EventKind::id);
            o.put("withinSeconds", unfollowed.within().toSeconds());
            if (unfollowed.samePerson()) {
                o.put("samePerson", true);
            }
        } else if (when instanceof Rule.TooFar far) {
            o.put("percent", far.percent())
                    .put("acrossSitesSeconds", far.acrossSites().toSeconds());
        }
        return o;
    }

    private static String sort(Rule.When when) {
        if (when instanceof Rule.Once) {
            return "once";
        }
        if (when instanceof Rule.Often) {
            return "often";
        }
        return when instanceof Rule.TooFar ? "too-far" : "unfollowed";
    }

    // ---- One rule, read

    /**
     * One rule that was written so, in version 0.
     *
     * @throws IllegalArgumentException if it says what cannot be; the message says where
     * @throws DateTimeException if a time in it is none
     */
    public static Rule read(JsonNode o) {
        Sheet.need(o.isObject(), "one of its rules is none");
        String id = Sheet.text(o, "id");
        String name = "the rule \"" + id + "\"";
        Sheet.only(o, name, "id", "name", "on", "priority", "when", "where", "who", "during", "holding", "then");
        try {
            return new Rule(
                    id,
                    0,
                    Sheet.text(o, "name"),
                    Sheet.flag(o, "on", true),
                    when(o.path("when"), name),
                    where(o.path("where"), name),
                    who(o.path("who"), name),
                    during(o.path("during"), name),
                    holding(o.path("holding"), name),
                    Sheet.choice(Priority.class, Sheet.text(o, "priority")),
                    then(o.path("then"), name));
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(
                    String.valueOf(e.getMessage()).startsWith(name) ? e.getMessage() : name + ": " + e.getMessage(), e);
        }
    }

    private static Rule.When when(JsonNode o, String rule) {
        String sort = Sheet.text(o, "sort");
        Set<EventKind> kinds = Sheet.set(o, "kinds", Kinds::of);
        return switch (sort) {
            case "once" -> {
                Sheet.only(o, rule, "sort", "kinds", "reasons", "endedBy");
                yield new Rule.Once(kinds, Sheet.set(o, "reasons", r -> r), Sheet.set(o, "endedBy", Kinds::of));
            }
            case "often" -> {
                Sheet.only(
                        o,
                        rule,
                        "sort",
                        "kinds",
                        "reasons",
                        "unless",
                        "times",
                        "withinSeconds",
                        "per",
                        "differentDoors");
                yield new Rule.Often(
                        kinds,
                        Sheet.set(o, "reasons", r -> r),
                        Sheet.set(o, "unless", Kinds::of),
                        Sheet.number(o, "times"),
                        Duration.ofSeconds(Sheet.number(o, "withinSeconds")),
                        Sheet.choice(Rule.Per.class, Sheet.text(o, "per")),
                        Sheet.flag(o, "differentDoors", false));
            }
            case "unfollowed" -> {
                Sheet.only(o, rule, "sort", "kinds", "by", "withinSeconds", "samePerson");
                yield new Rule.Unfollowed(
                        kinds,
                        Sheet.set(o, "by", Kinds::of),
                        Duration.ofSeconds(Sheet.number(o, "withinSeconds")),
                        Sheet.flag(o, "samePerson", false));
            }
            case "too-far" -> {
                Sheet.only(o, rule, "sort", "kinds", "percent", "acrossSitesSeconds");
                yield new Rule.TooFar(
                        kinds, Sheet.number(o, "percent"), Duration.ofSeconds(Sheet.number(o, "acrossSitesSeconds")));
            }
            default -> throw new IllegalArgumentException("there is no rule of the sort \"" + sort + "\"");
        };
    }

    /** Where something has to happen, as it was written. */
    static Rule.Where where(JsonNode o, String rule) {
        Sheet.only(o, rule, "doors", "zones", "sites", "systems", "devices", "deviceKinds", "exceptDeviceKinds");
        Set<Rule.Zone> zones = new LinkedHashSet<>();
        for (JsonNode zone : Sheet.list(o, "zones")) {
            Sheet.only(zone, rule, "site", "zone");
            zones.add(new Rule.Zone(new SiteId(Sheet.text(zone, "site")), Sheet.text(zone, "zone")));
        }
        return new Rule.Where(
                Sheet.set(o, "doors", DoorId::new),
                zones,
                Sheet.set(o, "sites", SiteId::new),
                Sheet.set(o, "systems", SystemId::new),
                Sheet.set(o, "devices", DeviceId::new),
                Sheet.set(o, "deviceKinds", k -> k),
                Sheet.set(o, "exceptDeviceKinds", k -> k));
    }

    private static Rule.Who who(JsonNode o, String rule) {
        Sheet.only(o, rule, "people", "kinds", "companies", "except", "unknown");
        JsonNode except = o.path("except");
        Sheet.only(except, rule, "people", "kinds", "companies");
        return new Rule.Who(people(o), people(except), Sheet.flag(o, "unknown", false));
    }

    private static Rule.People people(JsonNode o) {
        return new Rule.People(
                Sheet.set(o, "people", PersonId::new),
                Sheet.set(o, "kinds", k -> k),
                Sheet.set(o, "companies", c -> c));
    }

    private static Optional<Rule.Holding> holding(JsonNode o, String rule) {
        if (o.isMissingNode()) {
            return Optional.empty();
        }
        Sheet.only(o, rule, "begins", "ends", "extent");
        return Optional.of(new Rule.Holding(
                Sheet.set(o, "begins", Kinds::of),
                Sheet.set(o, "ends", Kinds::of),
                Sheet.choice(Rule.Extent.class, Sheet.text(o, "extent"))));
    }

    private static Hours during(JsonNode o, String rule) {
        Sheet.only(o, rule, "spans", "holidays", "within");
        List<Hours.Span> spans = new ArrayList<>();
        for (JsonNode span : Sheet.list(o, "spans")) {
            Sheet.only(span, rule, "days", "from", "to");
            spans.add(new Hours.Span(
                    Sheet.set(span, "days", d -> Sheet.choice(DayOfWeek.class, d)),
                    LocalTime.parse(Sheet.text(span, "from")),
                    LocalTime.parse(Sheet.text(span, "to"))));
        }
        return new Hours(
                spans,
                o.has("holidays")
                        ? Sheet.choice(Hours.Holidays.class, Sheet.text(o, "holidays"))
                        : Hours.Holidays.AS_USUAL,
                within(o.path("within"), rule));
    }

    private static Optional<Hours.Within> within(JsonNode o, String rule) {
        if (o.isMissingNode()) {
            return Optional.empty();
        }
        Sheet.only(o, rule, "timetable", "outside");
        return Optional.of(new Hours.Within(Sheet.text(o, "timetable"), Sheet.flag(o, "outside", false)));
    }

    private static Rule.Then then(JsonNode o, String rule) {
        Sheet.only(o, rule, "forward", "sound", "orders", "tells");
        List<Rule.Order> orders = new ArrayList<>();
        for (JsonNode order : Sheet.list(o, "orders")) {
            Sheet.only(order, rule, "at", "door", "command", "text");
            String command = Sheet.text(order, "command");
            orders.add(new Rule.Order(
                    Sheet.choice(Rule.At.class, Sheet.text(order, "at")),
                    order.has("door") ? Optional.of(new DoorId(Sheet.text(order, "door"))) : Optional.empty(),
                    DoorCommand.of(
                                    command,
                                    Optional.empty(),
                                    order.has("text") ? Optional.of(Sheet.text(order, "text")) : Optional.empty())
                            .orElseThrow(
                                    () -> new IllegalArgumentException("there is no command \"" + command + "\""))));
        }
        List<Rule.Tell> tells = new ArrayList<>();
        for (JsonNode tell : Sheet.list(o, "tells")) {
            Sheet.only(tell, rule, "at", "receiver");
            tells.add(new Rule.Tell(Sheet.choice(Rule.At.class, Sheet.text(tell, "at")), Sheet.text(tell, "receiver")));
        }
        return new Rule.Then(Sheet.flag(o, "forward", true), Sheet.flag(o, "sound", true), orders, tells);
    }
}
