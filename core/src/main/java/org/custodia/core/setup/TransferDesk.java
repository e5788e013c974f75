package org.custodia.core.setup;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.OnRecord;
import org.custodia.core.event.Translation;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.SayingException;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Walk;

/**
 * Where all that is set up is written into one file, and taken in from one. Doors and cameras that a file speaks of need not
 * be known yet: their systems come with it. A file is taken in part by part, each of them whole or not at all; one that was
 * taken in half can be taken in again, and then changes what is missing.
 */
public final class TransferDesk {
    private final SetupDesk links;
    private final PairBook pairs;
    private final DeviceBook devices;
    private final LookoutBook lookouts;
    private final EventIntake intake;
    private final SetupSheets sheets;
    private final Clock clock;

    public TransferDesk(
            SetupDesk links,
            PairBook pairs,
            DeviceBook devices,
            LookoutBook lookouts,
            EventIntake intake,
            SetupSheets sheets,
            Clock clock) {
        this.links = links;
        this.pairs = pairs;
        this.devices = devices;
        this.lookouts = lookouts;
        this.intake = intake;
        this.sheets = sheets;
        this.clock = clock;
    }

    /**
     * All that is set up as a file, without anything to sign in with.
     *
     * @param name of the whole
     * @param watch doors to have on watch at first
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see all of that
     */
    public byte[] write(String name, List<DoorId> watch, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        List<LinkSetup> all =
                links.links(actor).stream().map(LinkBook.Kept::link).toList();
        Map<SystemId, List<Translation.Rule>> meanings = new LinkedHashMap<>();
        for (LinkSetup link : all) {
            List<Translation.Rule> rules = intake.translation(link.system()).rules();
            if (!rules.isEmpty()) {
                meanings.put(link.system(), rules);
            }
        }
        return sheets.write(new WholeSetup(
                name,
                all,
                devices.ownSites(),
                pairs.allPairs().stream().map(PairBook.Kept::pairing).toList(),
                devices.placings().stream().map(DeviceBook.PlacingEdit::placing).toList(),
                devices.allWalks(),
                lookouts.allLookouts(),
                meanings,
                watch));
    }

    /**
     * What a file would change.
     *
     * @throws SetupException if it cannot be read; it says why
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see all that is set up
     */
    public SetupPlan plan(byte[] sheet, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        WholeSetup wanted = sheets.read(sheet);
        Comparison made = new Comparison();
        List<SetupPlan.LinkEdit> ofLinks = links(wanted.links(), actor, made);
        List<SetupPlan.SiteEdit> ofSites = new ArrayList<>();
        made.compare(
                ChangeBook.About.SITE,
                wanted.sites(),
                devices.ownSites(),
                s -> s.id().value(),
                s -> ofSites.add(new SetupPlan.SiteEdit(s, devices.siteVersion(s.id()))));
        List<DeviceBook.PlacingEdit> ofPlacings = new ArrayList<>();
        made.compare(
                ChangeBook.About.PLACING,
                wanted.placings().stream().filter(p -> fits(p, made)).toList(),
                devices.placings().stream().map(DeviceBook.PlacingEdit::placing).toList(),
                p -> p.thing().toString(),
                p -> ofPlacings.add(new DeviceBook.PlacingEdit(p, devices.placingVersion(p.thing()))));
        List<DeviceBook.WalkEdit> ofWalks = new ArrayList<>();
        made.compare(
                ChangeBook.About.WALK,
                wanted.neighbours(),
                devices.allWalks(),
                Walk::key,
                w -> ofWalks.add(new DeviceBook.WalkEdit(w.key(), Optional.of(w), devices.walkVersion(w.key()))));
        List<PairBook.Kept> kept = pairs.allPairs();
        PairPlan ofPairs = PairPlan.of(wanted.pairs(), kept);
        made.same += ofPairs.same();
        made.compare(
                ChangeBook.About.PAIR,
                Stream.concat(ofPairs.added().stream(), ofPairs.changed().stream())
                        .toList(),
                kept.stream().map(PairBook.Kept::pairing).toList(),
                p -> p.id().value(),
                p -> {});
        List<SetupPlan.LookoutEdit> ofLookouts = new ArrayList<>();
        made.compare(
                ChangeBook.About.LOOKOUT,
                wanted.lookouts(),
                lookouts.allLookouts(),
                Lookout::key,
                l -> ofLookouts.add(new SetupPlan.LookoutEdit(l, lookouts.lookoutVersion(l.key()))));
        List<SetupPlan.MeaningsEdit> ofMeanings = meanings(wanted, made);
        return new SetupPlan(
                ofLinks,
                ofSites,
                ofPairs,
                ofPlacings,
                ofWalks,
                ofLookouts,
                ofMeanings,
                made.shown,
                made.problems,
                made.same);
    }

    /** What of a file is here already, and what is not. */
    private static final class Comparison {
        private final List<ChangeBook.Change> shown = new ArrayList<>();
        private final List<SetupPlan.Problem> problems = new ArrayList<>();
        private int same;

        /**
         * Compares what is wanted with what is there.
         *
         * @param different told of each that is not there just so
         */
        <T> void compare(
                ChangeBook.About about, List<T> wanted, List<T> there, Function<T, String> key, Consumer<T> different) {
            Map<String, T> known = new HashMap<>();
            there.forEach(t -> known.put(key.apply(t), t));
            for (T one : wanted) {
                Optional<T> before = Optional.ofNullable(known.get(key.apply(one)));
                if (before.filter(one::equals).isPresent()) {
                    same++;
                    continue;
                }
                different.accept(one);
                shown.add(new ChangeBook.Change(
                        about,
                        Instant.EPOCH,
                        "",
                        List.of(new ChangeBook.Part(key.apply(one), 0, true, before.map(b -> b), Optional.of(one)))));
            }
        }
    }

    private List<SetupPlan.LinkEdit> links(List<LinkSetup> wanted, Actor actor, Comparison made) {
        Map<String, LinkSetup> there = new HashMap<>();
        links.links(actor).forEach(k -> there.put(k.link().id(), k.link()));
        List<LinkSetup> can = new ArrayList<>();
        for (LinkSetup link : wanted) {
            links.problem(link)
                    .ifPresentOrElse(
                            why -> made.problems.add(new SetupPlan.Problem(link.name(), why)), () -> can.add(link));
        }
        List<SetupPlan.LinkEdit> edits = new ArrayList<>();
        made.compare(ChangeBook.About.LINK, can, List.copyOf(there.values()), LinkSetup::id, link -> {
            edits.add(new SetupPlan.LinkEdit(link, links.version(link.system()), !links.hasToken(link)));
        });
        return edits;
    }

    /** Whether what is said of a thing says something, and can be words. */
    private static boolean fits(Placing placing, Comparison made) {
        try {
            DeviceDesk.checkWords(placing);
            return !placing.saysNothing();
        } catch (SetupException e) {
            made.problems.add(new SetupPlan.Problem(placing.thing().id(), e.saying()));
            return false;
        }
    }

    private List<SetupPlan.MeaningsEdit> meanings(WholeSetup wanted, Comparison made) {
        List<SetupPlan.MeaningsEdit> edits = new ArrayList<>();
        wanted.meanings().forEach((system, rules) -> {
            Translation there = intake.translation(system);
            if (there.rules().equals(rules)) {
                made.same++;
            } else {
                edits.add(new SetupPlan.MeaningsEdit(system, rules, there.version()));
            }
        });
        return edits;
    }

    /**
     * Does what a plan says. Each part of it is done whole or not at all, and so is what records it; where one cannot be, what
     * came before it stays.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up everywhere
     * @throws org.custodia.core.event.EventLogException if somebody has changed something of it meanwhile, or it cannot be
     *     written
     */
    public synchronized void carryOut(SetupPlan plan, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        if (plan.changes() == 0) {
            return;
        }
        plan.sites()
                .forEach(s -> devices.keepSite(
                        s.site(),
                        s.basedOn(),
                        actor,
                        fact("site", 1, actor).detail("name", s.site().name())));
        if (!plan.placings().isEmpty()) {
            devices.place(
                    plan.placings(),
                    actor,
                    List.of(fact("thing", plan.placings().size(), actor)));
        }
        if (!plan.neighbours().isEmpty()) {
            devices.walks(
                    plan.neighbours(),
                    actor,
                    List.of(fact("walk", plan.neighbours().size(), actor)));
        }
        pairs(plan.pairs(), actor);
        plan.lookouts()
                .forEach(l -> lookouts.keepLookout(
                        l.lookout().key(), Optional.of(l.lookout()), l.basedOn(), actor, fact("lookout", 1, actor)));
        plan.meanings().forEach(m -> translate(m, actor));
        // At the end, so that what connects finds everything in its place.
        plan.links().forEach(l -> links.takeIn(l.link(), l.basedOn(), actor));
    }

    private Event.Builder fact(String what, int records, Actor actor) {
        return OnRecord.setUp(what, "imported", actor, clock.instant()).detail("records", String.valueOf(records));
    }

    private void pairs(PairPlan plan, Actor actor) {
        List<PairBook.Edit> edits = new ArrayList<>();
        List<Event.Builder> facts = new ArrayList<>();
        for (Pairing p : plan.added()) {
            long basedOn = plan.versions().getOrDefault(p.id(), pairs.version(p.id()));
            edits.add(new PairBook.Edit(p.id(), Optional.of(p), basedOn));
            facts.add(PairDesk.change("added", p, actor, clock.instant()));
        }
        for (Pairing p : plan.changed()) {
            edits.add(new PairBook.Edit(p.id(), Optional.of(p), plan.versions().get(p.id())));
            facts.add(PairDesk.change("changed", p, actor, clock.instant()));
        }
        if (!edits.isEmpty()) {
            pairs.keepAll(edits, actor, facts);
        }
    }

    private void translate(SetupPlan.MeaningsEdit edit, Actor actor) {
        try {
            intake.translate(edit.system(), edit.basedOn(), edit.rules(), actor).join();
        } catch (CompletionException e) {
            if (e.getCause() instanceof SayingException said) {
                throw said;
            }
            throw e;
        }
    }
}
