package org.custodia.desktop.rule;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.BiFunction;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.UnaryOperator;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import javafx.util.StringConverter;
import org.custodia.core.access.Timetable;
import org.custodia.core.alarm.Detector;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.control.CheckList;
import org.custodia.desktop.control.PeopleChoice;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.Names;

/** What each clause of a rule's sentence is edited with. */
final class ClauseParts {
    private static final Texts TEXTS = Texts.of(ClauseParts.class);

    private final RuleModel model;
    private final RuleWords words;

    ClauseParts(RuleModel model, RuleWords words) {
        this.model = model;
        this.words = words;
    }

    Node of(Clause clause) {
        return switch (clause) {
            case WHAT -> what();
            case WHERE -> where();
            case WHO -> who();
            case DURING -> during();
            case HOLDING -> holding();
            case OVER -> over();
            case THEN -> then();
        };
    }

    private Rule rule() {
        return model.rule().orElseThrow();
    }

    /** Changes what is edited; what cannot be is left as it was. */
    private boolean edit(UnaryOperator<Rule> how) {
        try {
            model.edit(how.apply(rule()));
            return true;
        } catch (IllegalArgumentException e) {
            return false;
        }
    }

    private static Rule with(Rule r, Rule.When when) {
        return r.when(when);
    }

    private static Rule with(Rule r, Rule.Where where) {
        return r.where(where);
    }

    private static Rule with(Rule r, Rule.Who who) {
        return r.who(who);
    }

    private static Rule with(Rule r, Hours during) {
        return r.during(during);
    }

    private static Rule with(Rule r, Rule.Then then) {
        return r.then(then);
    }

    private static <T> ComboBox<T> combo(String what, List<T> all, T now, Function<T, String> name, Consumer<T> told) {
        ComboBox<T> box = new ComboBox<>();
        box.setConverter(new StringConverter<>() {
            @Override
            public String toString(T value) {
                return value == null ? "" : name.apply(value);
            }

            @Override
            public T fromString(String text) {
                return box.getValue();
            }
        });
        box.getItems().setAll(all);
        box.setValue(now);
        box.setAccessibleText(what);
        box.valueProperty().addListener((o, a, b) -> told.accept(b));
        return box;
    }

    private static <E extends Enum<E>> ComboBox<E> combo(String what, Class<E> type, E now, Consumer<E> told) {
        return combo(
                what,
                List.copyOf(EnumSet.allOf(type)),
                now,
                e -> TEXTS.say(what + "." + e.name().toLowerCase(Locale.ROOT).replace('_', '-')),
                told);
    }

    private static Label muted(String text) {
        Label label = new Label(text);
        label.getStyleClass().add("muted");
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }

    // ---- What

    /** In what way something has to happen. */
    private enum Sort {
        ONCE,
        OFTEN,
        UNFOLLOWED,
        TOO_FAR;

        static Sort of(Rule.When when) {
            if (when instanceof Rule.Once) {
                return ONCE;
            }
            if (when instanceof Rule.Often) {
                return OFTEN;
            }
            return when instanceof Rule.Unfollowed ? UNFOLLOWED : TOO_FAR;
        }
    }

    private Node what() {
        VBox all = new VBox(8);
        Rule.When when = rule().when();
        all.getChildren()
                .setAll(
                        combo("sort", Sort.class, Sort.of(when), s -> {
                            edit(r -> with(r, as(s, r.when())));
                            refill(all);
                        }),
                        kinds());
        refill(all);
        return all;
    }

    private void refill(VBox all) {
        while (all.getChildren().size() > 2) {
            all.getChildren().remove(2);
        }
        all.getChildren().addAll(more());
    }

    private static Rule.When as(Sort sort, Rule.When before) {
        Set<EventKind> kinds = before.kinds();
        return switch (sort) {
            case ONCE -> new Rule.Once(kinds, reasons(before), Set.of());
            case OFTEN -> new Rule.Often(kinds, reasons(before), Set.of(), 3, Duration.ofMinutes(5), Rule.Per.PLACE);
            case UNFOLLOWED -> {
                EventKind by = kinds.contains(Kinds.OPENED) ? Kinds.CLOSED : Kinds.OPENED;
                Set<EventKind> others = new HashSet<>(kinds);
                others.remove(by);
                yield new Rule.Unfollowed(
                        others.isEmpty() ? Set.of(Kinds.GRANTED) : others, Set.of(by), Duration.ofSeconds(15));
            }
            case TOO_FAR -> new Rule.TooFar(Set.of(Kinds.GRANTED), 50, Duration.ofMinutes(5));
        };
    }

    private static Set<String> reasons(Rule.When when) {
        if (when instanceof Rule.Once once) {
            return once.reasons();
        }
        return when instanceof Rule.Often often ? often.reasons() : Set.of();
    }

    /** The kinds that a rule can look at: those that are known, and those that it has. */
    private List<EventKind> known(Set<EventKind> have) {
        Set<EventKind> all = new LinkedHashSet<>(have);
        Kinds.all().stream()
                .filter(k -> !k.id().startsWith("alarm."))
                .sorted(Comparator.comparing(Names::kind))
                .forEach(all::add);
        return List.copyOf(all);
    }

    private CheckList<EventKind> kindList(String what, Set<EventKind> now, Consumer<Set<EventKind>> told) {
        return new CheckList<>(TEXTS.say(what), known(now), now, Names::kind, told);
    }

    private Node kinds() {
        AtomicReference<CheckList<EventKind>> list = new AtomicReference<>();
        list.set(kindList("kinds", rule().when().kinds(), some -> {
            if (!edit(r -> with(r, kinds(r.when(), some)))) {
                // At least one stays, and none that ends it.
                list.get().choose(rule().when().kinds());
            }
        }));
        return list.get();
    }

    private static Rule.When kinds(Rule.When when, Set<EventKind> kinds) {
        if (when instanceof Rule.Once once) {
            Set<EventKind> over = new HashSet<>(once.endedBy());
            over.removeAll(kinds);
            return new Rule.Once(kinds, once.reasons(), over);
        }
        if (when instanceof Rule.Often often) {
            Set<EventKind> unless = new HashSet<>(often.unless());
            unless.removeAll(kinds);
            return new Rule.Often(
                    kinds, often.reasons(), unless, often.times(), often.within(), often.per(), often.differentDoors());
        }
        if (when instanceof Rule.Unfollowed unfollowed) {
            return new Rule.Unfollowed(kinds, unfollowed.by(), unfollowed.within(), unfollowed.samePerson());
        }
        Rule.TooFar far = (Rule.TooFar) when;
        return new Rule.TooFar(kinds, far.percent(), far.acrossSites());
    }

    private List<Node> more() {
        List<Node> more = new ArrayList<>();
        Rule.When when = rule().when();
        if (when instanceof Rule.Often often) {
            more.add(line(
                    number(
                            "times",
                            often.times(),
                            2,
                            Detector.MOST_TIMES,
                            n -> edit(r -> {
                                return r.when(((Rule.Often) r.when()).times(n));
                            })),
                    muted(TEXTS.say("times-within")),
                    span(
                            "within",
                            often.within(),
                            d -> edit(r -> {
                                return r.when(((Rule.Often) r.when()).within(d));
                            })),
                    combo(
                            "per",
                            Rule.Per.class,
                            often.per(),
                            p -> edit(r -> {
                                return r.when(((Rule.Often) r.when()).per(p));
                            }))));
            more.add(check(
                    "different-doors",
                    often.differentDoors(),
                    now -> edit(r -> r.when(((Rule.Often) r.when()).differentDoors(now)))));
            more.add(muted(TEXTS.say("unless-none")));
            more.add(kindList(
                    "unless",
                    often.unless(),
                    some -> edit(r -> {
                        return r.when(((Rule.Often) r.when()).unless(some));
                    })));
        } else if (when instanceof Rule.Unfollowed unfollowed) {
            more.add(line(
                    muted(TEXTS.say("not-followed-within")),
                    span(
                            "within",
                            unfollowed.within(),
                            d -> edit(r -> {
                                Rule.Unfollowed u = (Rule.Unfollowed) r.when();
                                return with(r, new Rule.Unfollowed(u.kinds(), u.by(), d, u.samePerson()));
                            }))));
            more.add(kindList(
                    "followed-by",
                    unfollowed.by(),
                    some -> edit(r -> {
                        Rule.Unfollowed u = (Rule.Unfollowed) r.when();
                        return with(r, new Rule.Unfollowed(u.kinds(), some, u.within(), u.samePerson()));
                    })));
            more.add(check(
                    "same-person",
                    unfollowed.samePerson(),
                    now -> edit(r -> {
                        Rule.Unfollowed u = (Rule.Unfollowed) r.when();
                        return r.when(new Rule.Unfollowed(u.kinds(), u.by(), u.within(), now));
                    })));
        } else if (when instanceof Rule.TooFar far) {
            more.add(line(
                    number(
                            "percent",
                            far.percent(),
                            10,
                            100,
                            n -> edit(r -> {
                                Rule.TooFar f = (Rule.TooFar) r.when();
                                return with(r, new Rule.TooFar(f.kinds(), n, f.acrossSites()));
                            })),
                    muted(TEXTS.say("percent-of-walk"))));
            more.add(line(
                    muted(TEXTS.say("across-sites")),
                    span(
                            "across",
                            far.acrossSites(),
                            d -> edit(r -> {
                                Rule.TooFar f = (Rule.TooFar) r.when();
                                return with(r, new Rule.TooFar(f.kinds(), f.percent(), d));
                            }))));
        }
        boolean canRefuse = when instanceof Rule.Once || when instanceof Rule.Often;
        if (canRefuse) {
            more.add(muted(TEXTS.say("reasons-none")));
            Set<String> all = new LinkedHashSet<>(reasons(when));
            Reasons.all().stream().sorted(Comparator.comparing(Names::reason)).forEach(all::add);
            more.add(new CheckList<>(
                    TEXTS.say("reasons"),
                    List.copyOf(all),
                    reasons(when),
                    Names::reason,
                    some -> edit(r -> r.when() instanceof Rule.Once o
                            ? with(r, new Rule.Once(o.kinds(), some, o.endedBy()))
                            : with(r, often(r, some)))));
        }
        return more;
    }

    private static Rule.Often often(Rule r, Set<String> reasons) {
        return ((Rule.Often) r.when()).reasons(reasons);
    }

    /** A box that goes back where what it says cannot be. */
    private static CheckBox check(String text, boolean now, Predicate<Boolean> told) {
        CheckBox box = new CheckBox(TEXTS.say(text));
        box.setSelected(now);
        box.setOnAction(e -> {
            if (!told.test(box.isSelected())) {
                box.setSelected(!box.isSelected());
            }
        });
        return box;
    }

    private static FlowPane line(Node... nodes) {
        FlowPane line = new FlowPane(8, 6, nodes);
        line.setRowValignment(javafx.geometry.VPos.CENTER);
        return line;
    }

    /** A whole number; what is none, or too small or large, is marked and changes nothing. */
    private static TextField number(String what, int now, int least, int most, Function<Integer, Boolean> told) {
        TextField field = new TextField(String.valueOf(now));
        field.setAccessibleText(TEXTS.say(what));
        field.setPrefColumnCount(4);
        field.textProperty().addListener((o, a, b) -> {
            boolean fine = false;
            if (b.strip().matches("[0-9]{1,6}")) {
                int n = Integer.parseInt(b.strip());
                fine = n >= least && n <= most && told.apply(n);
            }
            odd(field, !fine);
        });
        return field;
    }

    private static void odd(Node field, boolean now) {
        field.getStyleClass().remove("odd");
        if (now) {
            field.getStyleClass().add("odd");
        }
    }

    /** A length of time, with its unit. */
    private enum Unit {
        SECONDS(1),
        MINUTES(60),
        HOURS(3_600);

        private final int seconds;

        Unit(int seconds) {
            this.seconds = seconds;
        }

        static Unit of(Duration d) {
            long s = d.toSeconds();
            return s % 3_600 == 0 && s > 0 ? HOURS : s % 60 == 0 && s > 0 ? MINUTES : SECONDS;
        }
    }

    private static Node span(String what, Duration now, Function<Duration, Boolean> told) {
        Unit[] unit = {Unit.of(now)};
        int[] number = {(int) (now.toSeconds() / unit[0].seconds)};
        TextField field = number(what, number[0], 1, 100_000, n -> {
            number[0] = n;
            return told.apply(Duration.ofSeconds((long) n * unit[0].seconds));
        });
        ComboBox<Unit> units = combo("unit", Unit.class, unit[0], u -> {
            unit[0] = u;
            odd(field, !told.apply(Duration.ofSeconds((long) number[0] * u.seconds)));
        });
        HBox both = new HBox(4, field, units);
        both.setAlignment(Pos.CENTER_LEFT);
        return both;
    }

    // ---- Where

    private List<Object> places() {
        SiteModel sites = model.desk().services().sites().get();
        List<Object> all = new ArrayList<>();
        sites.sites().forEach(s -> all.add(s.id()));
        Set<Rule.Zone> zones = new LinkedHashSet<>();
        sites.doors().stream()
                .sorted(Comparator.comparing((Door d) -> d.site().value()).thenComparing(Door::name))
                .forEach(d -> {
                    all.add(d.id());
                    for (String zone : List.of(d.outside(), d.inside())) {
                        if (!zone.isBlank()) {
                            zones.add(new Rule.Zone(d.site(), zone));
                        }
                    }
                });
        all.addAll(sites.sites().size(), zones);
        sites.devices().forEach(d -> all.add(d.id()));
        model.desk().services().links().get().stream()
                .map(LinkStatus::system)
                .distinct()
                .forEach(all::add);
        return all;
    }

    private String place(Object place) {
        if (place instanceof SiteId site) {
            return TEXTS.say("place-site", words.site(site));
        }
        if (place instanceof Rule.Zone zone) {
            return TEXTS.say("place-zone", zone.name(), words.site(zone.site()));
        }
        if (place instanceof DoorId door) {
            return model.desk()
                    .services()
                    .sites()
                    .get()
                    .siteOf(door)
                    .map(s -> TEXTS.say("place-door", words.door(door), s.name()))
                    .orElseGet(() -> words.door(door));
        }
        if (place instanceof DeviceId device) {
            return TEXTS.say("place-device", words.device(device));
        }
        return TEXTS.say("place-system", words.system((SystemId) place));
    }

    private Node where() {
        Rule.Where now = rule().where();
        Set<Object> chosen = new LinkedHashSet<>();
        chosen.addAll(now.sites());
        chosen.addAll(now.zones());
        chosen.addAll(now.doors());
        chosen.addAll(now.devices());
        chosen.addAll(now.systems());
        return new VBox(
                6,
                muted(TEXTS.say("where-none")),
                new CheckList<>(
                        TEXTS.say("places"),
                        places(),
                        chosen,
                        this::place,
                        some -> edit(r -> r.where(r.where()
                                .at(
                                        only(some, DoorId.class),
                                        only(some, Rule.Zone.class),
                                        only(some, SiteId.class),
                                        only(some, SystemId.class),
                                        only(some, DeviceId.class))))),
                muted(TEXTS.say("device-kinds-none")),
                deviceKinds(
                        "device-kinds", now.deviceKinds(), (w, some) -> deviceKinds(w, some, w.exceptDeviceKinds())),
                deviceKinds(
                        "except-device-kinds",
                        now.exceptDeviceKinds(),
                        (w, some) -> deviceKinds(w, w.deviceKinds(), some)));
    }

    private static Rule.Where deviceKinds(Rule.Where where, Set<String> kinds, Set<String> except) {
        return new Rule.Where(
                where.doors(), where.zones(), where.sites(), where.systems(), where.devices(), kinds, except);
    }

    private CheckList<String> deviceKinds(
            String what, Set<String> now, BiFunction<Rule.Where, Set<String>, Rule.Where> edited) {
        Set<String> all = new TreeSet<>(now);
        all.add(Rule.PANIC_BUTTON);
        all.add(Rule.FIRE_CONTACT);
        model.desk().services().sites().get().devices().forEach(d -> all.add(d.kind()));
        return new CheckList<>(
                TEXTS.say(what),
                List.copyOf(all),
                now,
                RuleWords::deviceKind,
                some -> edit(r -> r.where(edited.apply(r.where(), some))));
    }

    private static <T> Set<T> only(Set<Object> all, Class<T> type) {
        Set<T> some = new LinkedHashSet<>();
        all.stream().filter(type::isInstance).map(type::cast).forEach(some::add);
        return some;
    }

    // ---- Who

    private Node who() {
        CheckBox unknown = new CheckBox(TEXTS.say("who-unknown"));
        unknown.setSelected(rule().who().unknown());
        VBox known = new VBox(8);
        Runnable fill = () -> known.getChildren()
                .setAll(
                        muted(TEXTS.say("who-none")),
                        people(
                                rule().who().of(),
                                "",
                                some -> edit(r -> r.who(new Rule.Who(
                                        some.apply(r.who().of()), r.who().except(), false)))),
                        muted(TEXTS.say("who-except")),
                        people(
                                rule().who().except(),
                                "except-",
                                some -> edit(r -> r.who(new Rule.Who(
                                        r.who().of(), some.apply(r.who().except()), false)))));
        fill.run();
        known.setDisable(unknown.isSelected());
        unknown.setOnAction(e -> {
            boolean now = unknown.isSelected();
            edit(r -> r.who(now ? new Rule.Who(Set.of(), Set.of(), true) : Rule.Who.ANYBODY));
            fill.run();
            known.setDisable(now);
        });
        return new VBox(8, unknown, known);
    }

    /**
     * Kinds of person, companies and people to choose.
     *
     * @param told receives the change of the choice
     */
    private VBox people(Rule.People now, String prefix, Consumer<UnaryOperator<Rule.People>> told) {
        Set<String> kinds = new TreeSet<>(List.of("staff", "contractor", "volunteer", "visitor"));
        kinds.addAll(now.kinds());
        Set<String> companies = new TreeSet<>(now.companies());
        companies.addAll(model.companies());
        return new VBox(
                8,
                new CheckList<>(
                        TEXTS.say(prefix + "kinds-of-person"),
                        List.copyOf(kinds),
                        now.kinds(),
                        RuleWords::kindOfPerson,
                        some -> told.accept(p -> new Rule.People(p.people(), some, p.companies()))),
                new CheckList<>(
                        TEXTS.say(prefix + "companies"),
                        List.copyOf(companies),
                        now.companies(),
                        c -> c,
                        some -> told.accept(p -> new Rule.People(p.people(), p.kinds(), some))),
                new PeopleChoice(
                        model.desk(),
                        now.people(),
                        words::person,
                        some -> told.accept(p -> new Rule.People(some, p.kinds(), p.companies()))));
    }

    // ---- While

    private Node holding() {
        VBox all = new VBox(8);
        fillHolding(all);
        return all;
    }

    private void fillHolding(VBox all) {
        Optional<Rule.Holding> now = rule().holding();
        CheckBox box = check("holding", now.isPresent(), on -> {
            boolean done = edit(r -> r.holding(
                    on
                            ? Optional.of(new Rule.Holding(
                                    Set.of(Kinds.PANEL_ARMED), Set.of(Kinds.PANEL_DISARMED), Rule.Extent.SITE))
                            : Optional.empty()));
            fillHolding(all);
            return done;
        });
        all.getChildren().setAll(box);
        now.ifPresent(h -> all.getChildren()
                .addAll(
                        muted(TEXTS.say("holding-begins-hint")),
                        kindList(
                                "holding-begins",
                                h.begins(),
                                some -> holding(x -> new Rule.Holding(some, x.ends(), x.extent()))),
                        muted(TEXTS.say("holding-ends-hint")),
                        kindList(
                                "holding-ends",
                                h.ends(),
                                some -> holding(x -> new Rule.Holding(x.begins(), some, x.extent()))),
                        combo(
                                "extent",
                                Rule.Extent.class,
                                h.extent(),
                                e -> holding(x -> new Rule.Holding(x.begins(), x.ends(), e)))));
    }

    private boolean holding(UnaryOperator<Rule.Holding> how) {
        return edit(r -> r.holding(r.holding().map(how)));
    }

    // ---- During

    private Node during() {
        VBox all = new VBox(8);
        fillSpans(all);
        return all;
    }

    private void fillSpans(VBox all) {
        all.getChildren().clear();
        List<Hours.Span> spans = rule().during().spans();
        if (spans.isEmpty()) {
            all.getChildren().add(muted(TEXTS.say("always-until-span")));
        }
        for (int i = 0; i < spans.size(); i++) {
            all.getChildren().add(spanRow(all, i));
        }
        Button add = new Button(TEXTS.say("add-span"));
        add.setOnAction(e -> {
            List<Hours.Span> more = new ArrayList<>(rule().during().spans());
            more.add(new Hours.Span(EnumSet.allOf(DayOfWeek.class), LocalTime.of(18, 0), LocalTime.of(8, 0)));
            edit(r -> with(r, new Hours(more, r.during().holidays(), r.during().within())));
            fillSpans(all);
        });
        all.getChildren()
                .addAll(
                        add,
                        combo(
                                "holidays",
                                Hours.Holidays.class,
                                rule().during().holidays(),
                                h -> edit(r -> with(
                                        r,
                                        new Hours(
                                                r.during().spans(),
                                                h,
                                                r.during().within())))),
                        within());
    }

    /** Within which timetable, or outside which; or neither. */
    private Node within() {
        Optional<Hours.Within> now = rule().during().within();
        List<Optional<Hours.Within>> all = new ArrayList<>();
        all.add(Optional.empty());
        model.desk().services().workplace().rules().timetables().stream()
                .sorted(Comparator.comparing(Timetable::name).thenComparing(Timetable::id))
                .forEach(t -> {
                    all.add(Optional.of(new Hours.Within(t.id(), false)));
                    all.add(Optional.of(new Hours.Within(t.id(), true)));
                });
        if (!all.contains(now)) {
            all.add(now);
        }
        return combo(
                TEXTS.say("timetable"),
                all,
                now,
                w -> w.map(words::within).orElseGet(() -> TEXTS.say("no-timetable")),
                w -> edit(r -> with(r, new Hours(r.during().spans(), r.during().holidays(), w))));
    }

    private Node spanRow(VBox all, int i) {
        Hours.Span now = rule().during().spans().get(i);
        HBox days = new HBox();
        for (DayOfWeek day : DayOfWeek.values()) {
            ToggleButton button = new ToggleButton(RuleWords.day(day));
            button.getStyleClass().add("segment");
            button.setMinWidth(Region.USE_PREF_SIZE);
            button.setSelected(now.days().contains(day));
            button.setOnAction(e -> {
                Set<DayOfWeek> some =
                        new HashSet<>(rule().during().spans().get(i).days());
                if (!some.remove(day)) {
                    some.add(day);
                }
                button.setSelected(change(i, s -> new Hours.Span(some, s.from(), s.to())) == some.contains(day));
            });
            days.getChildren().add(button);
        }
        Button off = new Button(TEXTS.say("take-span-off"));
        off.setOnAction(e -> {
            List<Hours.Span> fewer = new ArrayList<>(rule().during().spans());
            fewer.remove(i);
            edit(r -> with(r, new Hours(fewer, r.during().holidays(), r.during().within())));
            fillSpans(all);
        });
        return line(
                days,
                time("span-from", now.from(), t -> change(i, s -> new Hours.Span(s.days(), t, s.to()))),
                muted(TEXTS.say("span-to-word")),
                time("span-to", now.to(), t -> change(i, s -> new Hours.Span(s.days(), s.from(), t))),
                off);
    }

    private boolean change(int i, UnaryOperator<Hours.Span> how) {
        return edit(r -> {
            List<Hours.Span> spans = new ArrayList<>(r.during().spans());
            spans.set(i, how.apply(spans.get(i)));
            return with(r, new Hours(spans, r.during().holidays(), r.during().within()));
        });
    }

    private static TextField time(String what, LocalTime now, Function<LocalTime, Boolean> told) {
        TextField field = new TextField(now.toString());
        field.setAccessibleText(TEXTS.say(what));
        field.setPrefColumnCount(5);
        field.textProperty().addListener((o, a, b) -> {
            boolean fine;
            try {
                fine = told.apply(LocalTime.parse(b.strip().length() == 4 ? "0" + b.strip() : b.strip()));
            } catch (DateTimeParseException e) {
                fine = false;
            }
            odd(field, !fine);
        });
        return field;
    }

    // ---- Over, and then

    private Node over() {
        if (!(rule().when() instanceof Rule.Once once)) {
            return muted(TEXTS.say("over-only-once"));
        }
        AtomicReference<CheckList<EventKind>> list = new AtomicReference<>();
        list.set(kindList("ended-by", once.endedBy(), some -> {
            boolean done = edit(r -> {
                Rule.Once o = (Rule.Once) r.when();
                return with(r, new Rule.Once(o.kinds(), o.reasons(), some));
            });
            if (!done) {
                list.get().choose(((Rule.Once) rule().when()).endedBy());
            }
        }));
        return new VBox(6, muted(TEXTS.say("over-none")), list.get());
    }

    private Node then() {
        VBox all = new VBox(8);
        fillThen(all);
        return all;
    }

    private void fillThen(VBox all) {
        Rule.Then now = rule().then();
        CheckBox forward = new CheckBox(TEXTS.say("then-forward"));
        forward.setSelected(now.forward());
        forward.setOnAction(e -> edit(r -> with(
                r,
                new Rule.Then(
                        forward.isSelected(),
                        r.then().sound(),
                        r.then().orders(),
                        r.then().tells()))));
        CheckBox sound = new CheckBox(TEXTS.say("then-sound"));
        sound.setSelected(now.sound());
        sound.setOnAction(e -> edit(r -> with(
                r,
                new Rule.Then(
                        r.then().forward(),
                        sound.isSelected(),
                        r.then().orders(),
                        r.then().tells()))));
        all.getChildren().setAll(forward, sound);
        for (int i = 0; i < now.orders().size(); i++) {
            all.getChildren().add(orderRow(all, i));
        }
        Button add = new Button(TEXTS.say("add-order"));
        add.setOnAction(e -> {
            List<Rule.Order> more = new ArrayList<>(rule().then().orders());
            more.add(new Rule.Order(Rule.At.START, Optional.empty(), Rule.COMMANDS.get(0)));
            orders(more);
            fillThen(all);
        });
        add.setDisable(now.orders().size() >= Rule.Then.MOST_ORDERS);
        all.getChildren().add(add);
        for (int i = 0; i < now.tells().size(); i++) {
            all.getChildren().add(tellRow(all, i));
        }
        List<String> receivers = receivers(now);
        Button tell = new Button(TEXTS.say("add-tell"));
        tell.setOnAction(e -> {
            List<Rule.Tell> more = new ArrayList<>(rule().then().tells());
            receivers.stream()
                    .map(r -> new Rule.Tell(Rule.At.START, r))
                    .filter(t -> !more.contains(t))
                    .findFirst()
                    .ifPresent(more::add);
            tells(more);
            fillThen(all);
        });
        tell.setDisable(receivers.isEmpty() || now.tells().size() >= Rule.Then.MOST_TOLD);
        all.getChildren().add(tell);
        if (receivers.isEmpty()) {
            all.getChildren().add(muted(TEXTS.say("no-receivers")));
        }
    }

    private boolean orders(List<Rule.Order> orders) {
        return edit(r -> with(r, r.then().orders(orders)));
    }

    /** Those that there are, and those that the rule names. */
    private List<String> receivers(Rule.Then now) {
        Set<String> ids = new LinkedHashSet<>(
                model.desk().services().workplace().messages().names().keySet());
        now.tells().forEach(t -> ids.add(t.receiver()));
        return List.copyOf(ids);
    }

    private boolean tells(List<Rule.Tell> tells) {
        return edit(r -> with(r, r.then().tells(tells)));
    }

    private Node tellRow(VBox all, int i) {
        Rule.Tell now = rule().then().tells().get(i);
        Button off = new Button(TEXTS.say("take-order-off"));
        off.setOnAction(e -> {
            List<Rule.Tell> fewer = new ArrayList<>(rule().then().tells());
            fewer.remove(i);
            tells(fewer);
            fillThen(all);
        });
        return line(
                combo("at", Rule.At.class, now.at(), at -> tell(i, t -> new Rule.Tell(at, t.receiver()))),
                muted(TEXTS.say("tell-is-told")),
                combo(
                        TEXTS.say("tell-receiver"),
                        receivers(rule().then()),
                        now.receiver(),
                        words::receiver,
                        r -> tell(i, t -> new Rule.Tell(t.at(), r))),
                off);
    }

    private void tell(int i, UnaryOperator<Rule.Tell> how) {
        List<Rule.Tell> tells = new ArrayList<>(rule().then().tells());
        tells.set(i, how.apply(tells.get(i)));
        tells(tells);
    }

    private Node orderRow(VBox all, int i) {
        Rule.Order now = rule().then().orders().get(i);
        List<Optional<DoorId>> doors = new ArrayList<>();
        doors.add(Optional.empty());
        model.desk().services().sites().get().doors().stream()
                .sorted(Comparator.comparing(Door::name))
                .forEach(d -> doors.add(Optional.of(d.id())));
        if (!doors.contains(now.door())) {
            doors.add(now.door());
        }
        Button off = new Button(TEXTS.say("take-order-off"));
        off.setOnAction(e -> {
            List<Rule.Order> fewer = new ArrayList<>(rule().then().orders());
            fewer.remove(i);
            orders(fewer);
            fillThen(all);
        });
        return line(
                combo("at", Rule.At.class, now.at(), at -> order(i, o -> new Rule.Order(at, o.door(), o.command()))),
                combo(
                        TEXTS.say("order-door"),
                        doors,
                        now.door(),
                        d -> d.map(words::door).orElseGet(() -> TEXTS.say("here")),
                        d -> order(i, o -> new Rule.Order(o.at(), d, o.command()))),
                combo(
                        TEXTS.say("order-command"),
                        commands(now.command()),
                        now.command(),
                        (DoorCommand c) -> Names.command(c),
                        c -> {
                            order(i, o -> new Rule.Order(o.at(), o.door(), c));
                            fillThen(all);
                        }),
                shown(i, now.command()),
                off);
    }

    /** What a door can be told; a text is the one that it is told already, or one to begin with. */
    private static List<DoorCommand> commands(DoorCommand now) {
        List<DoorCommand> all = new ArrayList<>(Rule.COMMANDS);
        all.add(now instanceof DoorCommand.ShowText ? now : new DoorCommand.ShowText(TEXTS.say("text-first")));
        return all;
    }

    /** The text that a display shows; nothing where it is told something else. */
    private Node shown(int i, DoorCommand now) {
        if (!(now instanceof DoorCommand.ShowText show)) {
            return new Label();
        }
        TextField field = new TextField(show.text());
        field.setAccessibleText(TEXTS.say("text-shown"));
        field.setPrefColumnCount(22);
        field.textProperty().addListener((o, a, b) -> {
            try {
                DoorCommand.ShowText text = new DoorCommand.ShowText(b.strip());
                order(i, was -> new Rule.Order(was.at(), was.door(), text));
                odd(field, false);
            } catch (IllegalArgumentException e) {
                odd(field, true);
            }
        });
        return field;
    }

    private void order(int i, UnaryOperator<Rule.Order> how) {
        List<Rule.Order> orders = new ArrayList<>(rule().then().orders());
        orders.set(i, how.apply(orders.get(i)));
        orders(orders);
    }
}
