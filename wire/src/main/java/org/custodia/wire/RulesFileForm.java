package org.custodia.wire;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.EnumSet;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.custodia.core.alarm.AlarmException;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleSheets;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;

/** Rules of alarms as JSON: one by one as they are kept, and as a file to be taken elsewhere. */
public final class RulesFileForm implements RuleSheets {
    /** Bytes; more is no file of rules. */
    public static final int LARGEST = 4 * 1024 * 1024;

    /** The version of the form that is written, and the only one that is read. */
    public static final int VERSION = 1;

    private static final int MOST_VALUES = 10_000;
    private static final String MARK = "custodia-rules";

    @Override
    public byte[] write(List<Rule> rules) {
        ObjectNode file = Wire.mapper().createObjectNode().put(MARK, VERSION);
        ArrayNode all = file.putArray("rules");
        rules.forEach(r -> all.add(write(r)));
        try {
            return Wire.mapper().writerWithDefaultPrettyPrinter().writeValueAsBytes(file);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a tree can be written", e);
        }
    }

    @Override
    public List<Rule> read(byte[] file) {
        if (file.length > LARGEST) {
            throw odd("it is far too large to be one");
        }
        try {
            String text = StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(file))
                    .toString();
            JsonNode all = Wire.mapper().readTree(text);
            if (!all.path(MARK).isInt()) {
                throw odd("it does not say that it is one, by \"" + MARK + "\"");
            }
            if (all.path(MARK).asInt() != VERSION) {
                throw new AlarmException(
                        Saying.of("rule.file-version", all.path(MARK).asInt(), VERSION));
            }
            only(all, "the file", MARK, "rules");
            List<Rule> rules = new ArrayList<>();
            Set<String> ids = new HashSet<>();
            for (JsonNode one : list(all, "rules")) {
                Rule rule = read(one);
                need(ids.add(rule.id()), "the rule \"" + rule.id() + "\" is there twice");
                rules.add(rule);
            }
            return rules;
        } catch (CharacterCodingException e) {
            throw odd("it is not a text in UTF-8");
        } catch (JsonProcessingException e) {
            throw odd("it is no JSON at line "
                    + Optional.ofNullable(e.getLocation())
                            .map(l -> String.valueOf(l.getLineNr()))
                            .orElse("1"));
        } catch (IllegalArgumentException | DateTimeException e) {
            throw odd(e.getMessage());
        }
    }

    private static AlarmException odd(String why) {
        return new AlarmException(Saying.of("rule.file-odd", why));
    }

    private static void need(boolean fine, String otherwise) {
        if (!fine) {
            throw new IllegalArgumentException(otherwise);
        }
    }

    // ---- One rule, written

    /** One rule, without its version. */
    public static ObjectNode write(Rule rule) {
        ObjectNode o = Wire.mapper().createObjectNode();
        o.put("id", rule.id()).put("name", rule.name()).put("on", rule.on()).put("priority", word(rule.priority()));
        o.set("when", when(rule.when()));
        if (!rule.where().anywhere()) {
            ObjectNode where = o.putObject("where");
            texts(where, "doors", rule.where().doors(), DoorId::value);
            if (!rule.where().zones().isEmpty()) {
                ArrayNode zones = where.putArray("zones");
                rule.where().zones().stream()
                        .sorted((a, b) -> (a.site() + a.name()).compareTo(b.site() + b.name()))
                        .forEach(z ->
                                zones.addObject().put("site", z.site().value()).put("zone", z.name()));
            }
            texts(where, "sites", rule.where().sites(), SiteId::value);
            texts(where, "systems", rule.where().systems(), SystemId::value);
            texts(where, "devices", rule.where().devices(), DeviceId::value);
        }
        if (!rule.who().equals(Rule.Who.ANYBODY)) {
            ObjectNode who = o.putObject("who");
            texts(who, "people", rule.who().people(), PersonId::value);
            texts(who, "kinds", rule.who().kinds(), k -> k);
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
                EnumSet.copyOf(span.days()).forEach(d -> days.add(word(d)));
                one.put("from", span.from().toString()).put("to", span.to().toString());
            }
            during.put("holidays", word(rule.during().holidays()));
        }
        ObjectNode then = o.putObject("then")
                .put("forward", rule.then().forward())
                .put("sound", rule.then().sound());
        if (!rule.then().orders().isEmpty()) {
            ArrayNode orders = then.putArray("orders");
            for (Rule.Order order : rule.then().orders()) {
                ObjectNode one = orders.addObject().put("at", word(order.at()));
                order.door().ifPresent(d -> one.put("door", d.value()));
                one.put("command", order.command().word());
            }
        }
        return o;
    }

    private static ObjectNode when(Rule.When when) {
        ObjectNode o = Wire.mapper().createObjectNode();
        o.put("sort", sort(when));
        texts(o, "kinds", when.kinds(), EventKind::id);
        if (when instanceof Rule.Once once) {
            texts(o, "reasons", once.reasons(), r -> r);
            texts(o, "endedBy", once.endedBy(), EventKind::id);
        } else if (when instanceof Rule.Often often) {
            texts(o, "reasons", often.reasons(), r -> r);
            texts(o, "unless", often.unless(), EventKind::id);
            o.put("times", often.times())
                    .put("withinSeconds", often.within().toSeconds())
                    .put("per", word(often.per()));
        } else if (when instanceof Rule.Unfollowed unfollowed) {
            texts(o, "by", unfollowed.by(), EventKind::id);
            o.put("withinSeconds", unfollowed.within().toSeconds());
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

    private static <T> void texts(ObjectNode o, String name, Collection<T> some, Function<T, String> word) {
        if (!some.isEmpty()) {
            ArrayNode all = o.putArray(name);
            some.stream().map(word).sorted().forEach(all::add);
        }
    }

    private static String word(Enum<?> value) {
        return value.name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    // ---- One rule, read

    /**
     * One rule that was written so, in version 0.
     *
     * @throws IllegalArgumentException if it says what cannot be; the message says where
     * @throws DateTimeException if a time in it is none
     */
    public static Rule read(JsonNode o) {
        need(o.isObject(), "one of its rules is none");
        String id = text(o, "id");
        String name = "the rule \"" + id + "\"";
        only(o, name, "id", "name", "on", "priority", "when", "where", "who", "during", "then");
        try {
            return new Rule(
                    id,
                    0,
                    text(o, "name"),
                    flag(o, "on", true),
                    when(o.path("when"), name),
                    where(o.path("where"), name),
                    who(o.path("who"), name),
                    during(o.path("during"), name),
                    choice(Priority.class, text(o, "priority")),
                    then(o.path("then"), name));
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(
                    String.valueOf(e.getMessage()).startsWith(name) ? e.getMessage() : name + ": " + e.getMessage(), e);
        }
    }

    private static Rule.When when(JsonNode o, String rule) {
        String sort = text(o, "sort");
        Set<EventKind> kinds = set(o, "kinds", Kinds::of);
        return switch (sort) {
            case "once" -> {
                only(o, rule, "sort", "kinds", "reasons", "endedBy");
                yield new Rule.Once(kinds, set(o, "reasons", r -> r), set(o, "endedBy", Kinds::of));
            }
            case "often" -> {
                only(o, rule, "sort", "kinds", "reasons", "unless", "times", "withinSeconds", "per");
                yield new Rule.Often(
                        kinds,
                        set(o, "reasons", r -> r),
                        set(o, "unless", Kinds::of),
                        number(o, "times"),
                        Duration.ofSeconds(number(o, "withinSeconds")),
                        choice(Rule.Per.class, text(o, "per")));
            }
            case "unfollowed" -> {
                only(o, rule, "sort", "kinds", "by", "withinSeconds");
                yield new Rule.Unfollowed(
                        kinds, set(o, "by", Kinds::of), Duration.ofSeconds(number(o, "withinSeconds")));
            }
            case "too-far" -> {
                only(o, rule, "sort", "kinds", "percent", "acrossSitesSeconds");
                yield new Rule.TooFar(kinds, number(o, "percent"), Duration.ofSeconds(number(o, "acrossSitesSeconds")));
            }
            default -> throw new IllegalArgumentException("there is no rule of the sort \"" + sort + "\"");
        };
    }

    private static Rule.Where where(JsonNode o, String rule) {
        only(o, rule, "doors", "zones", "sites", "systems", "devices");
        Set<Rule.Zone> zones = new LinkedHashSet<>();
        for (JsonNode zone : list(o, "zones")) {
            only(zone, rule, "site", "zone");
            zones.add(new Rule.Zone(new SiteId(text(zone, "site")), text(zone, "zone")));
        }
        return new Rule.Where(
                set(o, "doors", DoorId::new),
                zones,
                set(o, "sites", SiteId::new),
                set(o, "systems", SystemId::new),
                set(o, "devices", DeviceId::new));
    }

    private static Rule.Who who(JsonNode o, String rule) {
        only(o, rule, "people", "kinds", "unknown");
        return new Rule.Who(set(o, "people", PersonId::new), set(o, "kinds", k -> k), flag(o, "unknown", false));
    }

    private static Hours during(JsonNode o, String rule) {
        only(o, rule, "spans", "holidays");
        List<Hours.Span> spans = new ArrayList<>();
        for (JsonNode span : list(o, "spans")) {
            only(span, rule, "days", "from", "to");
            spans.add(new Hours.Span(
                    set(span, "days", d -> choice(DayOfWeek.class, d)),
                    LocalTime.parse(text(span, "from")),
                    LocalTime.parse(text(span, "to"))));
        }
        return new Hours(
                spans, o.has("holidays") ? choice(Hours.Holidays.class, text(o, "holidays")) : Hours.Holidays.AS_USUAL);
    }

    private static Rule.Then then(JsonNode o, String rule) {
        only(o, rule, "forward", "sound", "orders");
        List<Rule.Order> orders = new ArrayList<>();
        for (JsonNode order : list(o, "orders")) {
            only(order, rule, "at", "door", "command");
            String command = text(order, "command");
            orders.add(new Rule.Order(
                    choice(Rule.At.class, text(order, "at")),
                    order.has("door") ? Optional.of(new DoorId(text(order, "door"))) : Optional.empty(),
                    DoorCommand.of(command, Optional.empty())
                            .orElseThrow(
                                    () -> new IllegalArgumentException("there is no command \"" + command + "\""))));
        }
        return new Rule.Then(flag(o, "forward", true), flag(o, "sound", true), orders);
    }

    /** A key that nobody knows is most likely a slip of the pen, and what was meant would be missing in silence. */
    private static void only(JsonNode o, String where, String... names) {
        need(o.isMissingNode() || o.isObject(), where + " has something that is no object where there should be one");
        List<String> known = Arrays.asList(names);
        o.fieldNames()
                .forEachRemaining(n -> need(known.contains(n), where + " has a key \"" + n + "\" that nobody knows"));
    }

    private static String text(JsonNode o, String name) {
        String text = o.path(name).textValue();
        need(text != null && !text.isBlank(), "there is no \"" + name + "\"");
        return text;
    }

    private static boolean flag(JsonNode o, String name, boolean otherwise) {
        need(!o.has(name) || o.path(name).isBoolean(), "\"" + name + "\" is true or false");
        return o.path(name).asBoolean(otherwise);
    }

    private static int number(JsonNode o, String name) {
        need(o.path(name).canConvertToInt() && o.path(name).isIntegralNumber(), "\"" + name + "\" is no whole number");
        return o.path(name).intValue();
    }

    private static Iterable<JsonNode> list(JsonNode o, String name) {
        JsonNode list = o.path(name);
        need(list.isMissingNode() || list.isArray(), "\"" + name + "\" is no list");
        need(list.size() <= MOST_VALUES, "\"" + name + "\" has more than " + MOST_VALUES + " values");
        return list;
    }

    private static <T> Set<T> set(JsonNode o, String name, Function<String, T> read) {
        Set<T> all = new LinkedHashSet<>();
        for (JsonNode one : list(o, name)) {
            need(one.isTextual(), "\"" + name + "\" has something that is no text");
            all.add(read.apply(one.textValue()));
        }
        return all;
    }

    private static <E extends Enum<E>> E choice(Class<E> type, String word) {
        return EnumSet.allOf(type).stream()
                .filter(e -> word(e).equals(word))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("\"" + word + "\" is none of "
                        + EnumSet.allOf(type).stream().map(RulesFileForm::word).collect(Collectors.joining(", "))));
    }
}
