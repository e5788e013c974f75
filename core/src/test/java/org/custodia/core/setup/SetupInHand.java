package org.custodia.core.setup;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.link.ClockSource;
import org.custodia.core.link.Finding;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SystemId;

/** A book, secrets and connections in memory, each of which fails when it is told to. */
public final class SetupInHand implements LinkBook, PairBook, Secrets, Connections, PairSheets {
    /** What was written on a sheet, or is to be read from one. */
    public List<Row> rows = List.of();

    @Override
    public byte[] write(List<Row> some, Form form) {
        rows = List.copyOf(some);
        return new byte[0];
    }

    @Override
    public List<Row> read(byte[] sheet) {
        return rows;
    }

    /** What was written into a file, or is to be read from one. */
    public WholeSetup whole;

    /** Reads what {@link #whole} is; the other sheets are read by their own desk. */
    public final SetupSheets files = new SetupSheets() {
        @Override
        public byte[] write(WholeSetup setup) {
            whole = setup;
            return new byte[0];
        }

        @Override
        public WholeSetup read(byte[] sheet) {
            if (whole == null) {
                throw new SetupException(Saying.of("setup.file-odd", "it is empty"));
            }
            return whole;
        }
    };

    /** Where what records an edit is stored. */
    private final MemoryLog log;

    public SetupInHand() {
        this(new MemoryLog());
    }

    /**
     * @param log where what records an edit is stored
     */
    public SetupInHand(MemoryLog log) {
        this.log = log;
    }

    private void record(List<Event.Builder> facts) {
        log.commit(facts);
    }

    public final Map<String, String> kept = new TreeMap<>();
    /** What was done with connections, a word each. */
    public final List<String> done = new ArrayList<>();

    public final List<Finding> findings = new ArrayList<>();
    /** Who answers; null for nobody. */
    public Answer answer;

    public boolean bookFails;
    public boolean secretsFail;
    /** Names of secrets that are there and cannot be read. */
    public final List<String> unreadable = new ArrayList<>();

    private final Map<String, LinkBook.Kept> links = new TreeMap<>();
    private final Map<String, Long> versions = new HashMap<>();

    @Override
    public List<LinkBook.Kept> all() {
        return links.values().stream()
                .sorted(Comparator.comparing(k -> k.link().name()))
                .toList();
    }

    @Override
    public long version(SystemId system) {
        return versions.getOrDefault(system.value(), 0L);
    }

    private long next(SystemId system, long basedOn, Actor by, Event.Builder fact) {
        by.requireEverywhere(Permission.SET_UP);
        if (bookFails) {
            throw new EventLogException(Saying.of("store.not-written"), null);
        }
        if (version(system) != basedOn) {
            throw new EventLogException(
                    Saying.of("store.changed-meanwhile", "link", system.value(), version(system), basedOn), null);
        }
        record(List.of(fact));
        versions.put(system.value(), basedOn + 1);
        return basedOn + 1;
    }

    @Override
    public long keep(LinkSetup link, long basedOn, Actor by, Event.Builder fact) {
        long version = next(link.system(), basedOn, by, fact);
        links.put(link.id(), new LinkBook.Kept(link, version));
        return version;
    }

    @Override
    public long end(SystemId system, long basedOn, Actor by, Event.Builder fact) {
        long version = next(system, basedOn, by, fact);
        links.remove(system.value());
        return version;
    }

    @Override
    public void take(Collection<LinkSetup> ofFile) {
        links.clear();
        ofFile.forEach(l -> links.put(l.id(), new LinkBook.Kept(l, versions.merge(l.id(), 1L, Long::sum))));
    }

    @Override
    public Optional<String> get(String name) {
        if (unreadable.contains(name)) {
            throw new SecretsException(Saying.of("secrets.damaged", name), null);
        }
        return Optional.ofNullable(kept.get(name));
    }

    @Override
    public void put(String name, String secret) {
        if (secretsFail) {
            throw new SecretsException(Saying.of("secrets.not-kept", "secrets.json"), null);
        }
        unreadable.remove(name);
        kept.put(name, secret);
    }

    @Override
    public void remove(String name) {
        if (secretsFail) {
            throw new SecretsException(Saying.of("secrets.not-kept", "secrets.json"), null);
        }
        kept.remove(name);
    }

    /** Keeps the token of a connection. */
    public void putToken(LinkSetup link, String token) {
        kept.put(link.secretName(), token);
    }

    /** The token stored for a connection's destination. */
    public Optional<String> token(LinkSetup link) {
        return Optional.ofNullable(kept.get(link.secretName()));
    }

    @Override
    public Set<String> names() {
        return Set.copyOf(kept.keySet());
    }

    @Override
    public List<Make> makes() {
        return List.of(new Make("access", "link-protocol"), new Make("recorder", "link-protocol"));
    }

    @Override
    public void open(LinkSetup link, String token) {
        done.add("open " + link.id() + " " + token);
    }

    @Override
    public void cannotOpen(LinkSetup link, Saying why) {
        done.add("cannot open " + link.id() + ", " + why.code());
    }

    @Override
    public void leave(LinkSetup link) {
        done.add("leave " + link.id());
    }

    @Override
    public void pause(LinkSetup link, Saying why) {
        done.add("pause " + link.id() + ", " + why.code());
    }

    @Override
    public void end(SystemId system, Saying why) {
        done.add("end " + system + ", " + why.code());
    }

    @Override
    public void keepAll(List<Edit> edits, Actor by, List<Event.Builder> facts) {
        for (Edit edit : edits) {
            if (version(edit.pair()) != edit.basedOn()) {
                throw new EventLogException(
                        Saying.of(
                                "store.changed-meanwhile",
                                "pair",
                                edit.pair().value(),
                                version(edit.pair()),
                                edit.basedOn()),
                        null);
            }
        }
        record(facts);
        edits.forEach(e -> e.pairing().ifPresentOrElse(p -> keep(p, e.basedOn()), () -> end(e.pair(), e.basedOn())));
    }

    /** What shows itself by https. */
    public Shown shown = new Shown("0".repeat(64), "CN=Tidewater", Instant.parse("2027-11-24T00:00:00Z"), true);

    @Override
    public Shown certificate(LinkSetup link) {
        return shown;
    }

    @Override
    public Answer whoAnswers(LinkSetup link, String token) {
        done.add("ask " + link.address() + " " + token);
        if (answer == null) {
            throw new SetupException(
                    Saying.of("link.nobody-there", link.address().toString()));
        }
        return answer;
    }

    /** Where all clocks take the time from. */
    public Optional<ClockSource> source = Optional.empty();

    @Override
    public Optional<ClockSource> clockSource(SystemId system) {
        return source;
    }

    @Override
    public void syncClock(SystemId system) {
        if (source.filter(ClockSource::canSync).isEmpty()) {
            throw new SetupException(Saying.of("link.clock-cannot"));
        }
        done.add("sync " + system);
    }

    @Override
    public void walk(LinkSetup link, String token, Consumer<Finding> told) {
        done.add("walk " + link.address() + " " + token);
        findings.forEach(told);
    }

    private final Map<PairId, PairBook.Kept> pairs = new LinkedHashMap<>();

    @Override
    public List<PairBook.Kept> allPairs() {
        return List.copyOf(pairs.values());
    }

    @Override
    public List<PairBook.Kept> of(DoorId door) {
        return pairs.values().stream()
                .filter(k -> k.pairing().door().equals(door))
                .toList();
    }

    private void checkPair(PairId pair, long basedOn) {
        if (version(pair) != basedOn) {
            throw new EventLogException(
                    Saying.of("store.changed-meanwhile", "pair", pair.value(), version(pair), basedOn), null);
        }
    }

    private long nextPair(PairId pair, long basedOn) {
        checkPair(pair, basedOn);
        versions.put("pair " + pair.value(), basedOn + 1);
        return basedOn + 1;
    }

    @Override
    public long version(PairId pair) {
        return versions.getOrDefault("pair " + pair.value(), 0L);
    }

    @Override
    public long keep(Pairing pairing, long basedOn, Actor by, Event.Builder fact) {
        checkPair(pairing.id(), basedOn);
        record(List.of(fact));
        return keep(pairing, basedOn);
    }

    private long keep(Pairing pairing, long basedOn) {
        long version = nextPair(pairing.id(), basedOn);
        pairs.put(pairing.id(), new PairBook.Kept(pairing, version));
        return version;
    }

    @Override
    public void order(List<PairBook.Kept> order, Actor by, Event.Builder fact) {
        order.forEach(k -> checkPair(k.pairing().id(), k.version()));
        record(List.of(fact));
        for (PairBook.Kept one : order) {
            pairs.remove(one.pairing().id());
            keep(one.pairing(), one.version());
        }
    }

    @Override
    public long end(PairId pair, long basedOn, Actor by, Event.Builder fact) {
        checkPair(pair, basedOn);
        record(List.of(fact));
        return end(pair, basedOn);
    }

    private long end(PairId pair, long basedOn) {
        long version = nextPair(pair, basedOn);
        pairs.remove(pair);
        return version;
    }
}
