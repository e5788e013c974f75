package org.custodia.store;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
import org.jooq.BatchBindStep;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Records with two times: from when to when something was so, and when that was learned; and who said so. Nothing is ever
 * changed or removed: a later version holds instead of earlier ones for as long as it says.
 */
public final class Registers {
    private static final Logger LOG = LoggerFactory.getLogger(Registers.class);
    private static final Table<Record> REGISTER = DSL.table("register");
    private static final Field<String> KIND = DSL.field("kind", String.class);
    private static final Field<String> ID = StoredText.column("id");
    private static final Field<Long> VERSION = DSL.field("version", Long.class);
    private static final Field<Long> FROM = DSL.field("valid_from", Long.class);
    private static final Field<Long> TO = DSL.field("valid_to", Long.class);
    private static final Field<Long> RECORDED = DSL.field("recorded", Long.class);
    private static final Field<String> SOURCE = DSL.field("source", String.class);
    private static final Field<String> MADE_BY = StoredText.column("made_by");
    private static final Field<Integer> FORM = DSL.field("form", Integer.class);
    private static final Field<String> PAYLOAD = StoredText.column("payload");

    /** Who says what a links file has, as the source of a record. No system tells of the same. */
    static final SystemId LINKS_FILE = new SystemId("links file");

    private final Database database;
    private final BatchIntake intake;

    /**
     * @param intake commits edits of operators together with the events recording them
     */
    public Registers(Database database, BatchIntake intake) {
        this.database = database;
        this.intake = intake;
    }

    /**
     * One version of a record.
     *
     * @param version counts from 1
     * @param from since when it is so
     * @param to until when, not included; nothing where no end is known
     * @param recorded when that was learned
     * @param source the system that says so, or Custodia itself
     * @param madeBy the operator who says so, where it was one
     * @param value nothing where there was nothing any more from then on
     */
    record Version<T>(
            String id,
            long version,
            Instant from,
            Optional<Instant> to,
            Instant recorded,
            SystemId source,
            Optional<String> madeBy,
            Optional<T> value) {
        /** Whether it says anything of an instant. */
        boolean covers(Instant at) {
            return !at.isBefore(from) && to.filter(t -> !at.isBefore(t)).isEmpty();
        }
    }

    /** What is there of a record: its newest version, and what its source said last. */
    private static final class Standing {
        private long version;
        private Optional<String> said = Optional.empty();
        private boolean saidAnything;
        private Optional<String> holds = Optional.empty();
    }

    /**
     * Makes a register agree with what a source says now: what is new or different gets a version, and what the source said
     * before and does not say any more ends.
     *
     * @param whole whether that is all the source has; otherwise nothing ends
     * @return how many records changed
     * @throws EventLogException if it cannot be written
     */
    <T> int replace(RegisterForm<T> form, SystemId source, Map<String, T> values, boolean whole, Instant at) {
        Map<String, String> wanted = new LinkedHashMap<>();
        values.forEach((id, value) -> wanted.put(id, form.write(value)));
        int[] changes = {0};
        database.write(dsl -> {
            changes[0] = 0;
            Map<String, Standing> there = standings(dsl, form, source);
            Map<String, Optional<String>> say = new LinkedHashMap<>();
            wanted.forEach((id, payload) -> {
                Standing before = there.get(id);
                // What the source said last is compared, not what holds: an operator may have said otherwise since.
                boolean same = before != null
                        && (before.saidAnything ? same(form, before.said, payload) : same(form, before.holds, payload));
                if (!same) {
                    say.put(id, Optional.of(payload));
                }
            });
            if (whole) {
                there.forEach((id, before) -> {
                    if (before.said.isPresent() && !wanted.containsKey(id)) {
                        say.put(id, Optional.empty());
                    }
                });
            }
            Added added = new Added(form);
            say.forEach((id, payload) -> {
                Standing before = there.get(id);
                added.version(
                        id, before == null ? 1 : before.version + 1, at, Optional.empty(), at, source, null, payload);
            });
            added.write(dsl);
            changes[0] = say.size();
        });
        return changes[0];
    }

    /** Whether a record says the same, in whatever form it was written. */
    private static <T> boolean same(RegisterForm<T> form, Optional<String> before, String payload) {
        return before.filter(b -> b.equals(payload)
                        || form.read(b).map(form::write).filter(payload::equals).isPresent())
                .isPresent();
    }

    private static Map<String, Standing> standings(DSLContext dsl, RegisterForm<?> form, SystemId source) {
        Map<String, Standing> there = new HashMap<>();
        dsl.select(ID, VERSION, SOURCE, TO, PAYLOAD)
                .from(REGISTER)
                .where(KIND.eq(form.kind()))
                .orderBy(ID, VERSION)
                .forEach(r -> {
                    Standing standing = there.computeIfAbsent(r.value1(), i -> new Standing());
                    Optional<String> payload = Optional.ofNullable(r.value5()).filter(p -> r.value4() == null);
                    standing.version = r.value2();
                    standing.holds = payload;
                    if (r.value3().equals(source.value())) {
                        standing.saidAnything = true;
                        standing.said = payload;
                    }
                });
        return there;
    }

    /** Versions to be written in one go, since a system may have tens of thousands of things. */
    private static final class Added {
        private final RegisterForm<?> form;
        private final List<Object[]> rows = new ArrayList<>();

        Added(RegisterForm<?> form) {
            this.form = form;
        }

        void version(
                String id,
                long version,
                Instant from,
                Optional<Instant> to,
                Instant recorded,
                SystemId source,
                String madeBy,
                Optional<String> payload) {
            rows.add(new Object[] {
                form.kind(),
                id,
                version,
                EventRows.micros(from),
                to.map(EventRows::micros).orElse(null),
                EventRows.micros(recorded),
                source.value(),
                madeBy,
                RegisterForm.NOW,
                payload.orElse(null)
            });
        }

        void write(DSLContext dsl) {
            if (rows.isEmpty()) {
                return;
            }
            BatchBindStep batch = dsl.batch(dsl.insertInto(REGISTER)
                    .columns(KIND, ID, VERSION, FROM, TO, RECORDED, SOURCE, MADE_BY, FORM, PAYLOAD)
                    .values((String) null, null, null, null, null, null, null, null, null, null));
            rows.forEach(batch::bind);
            batch.execute();
        }
    }

    /**
     * What an operator says of a record. Takes the permission at every site where it is, within the time that is spoken of,
     * and at every one where it then will be; for what belongs to no single site, everywhere.
     *
     * @param basedOn the version that was looked at; 0 for a record that was not there
     * @param value nothing to say that there is none
     * @param from since when it is so, which may lie in the past
     * @param to until when, not included; nothing for as long as nothing else is said
     * @param facts the events recording the edit, committed together with it
     * @return the new version's number
     * @throws NotPermittedException if the operator may not
     * @throws EventLogException if somebody has said something else meanwhile, or it cannot be written
     */
    <T> long edit(
            RegisterForm<T> form,
            String id,
            long basedOn,
            Optional<T> value,
            Instant from,
            Optional<Instant> to,
            Actor operator,
            Instant at,
            List<Event.Builder> facts) {
        permit(form, id, value, from, to, operator, at, new Lookup(false));
        Database.Work work = dsl -> {
            Long newest = dsl.select(DSL.max(VERSION))
                    .from(REGISTER)
                    .where(KIND.eq(form.kind()), ID.eq(id))
                    .fetchOne(0, Long.class);
            long version = newest == null ? 0 : newest;
            if (version != basedOn) {
                throw new EventLogException(
                        Saying.of("store.changed-meanwhile", form.kind(), id, version, basedOn), null);
            }
            Added added = new Added(form);
            added.version(
                    id, basedOn + 1, from, to, at, SystemId.CUSTODIA, operator.operator(), value.map(form::write));
            added.write(dsl);
        };
        intake.commit(work, facts);
        return basedOn + 1;
    }

    /**
     * One of many edits.
     *
     * @param basedOn the version that was looked at; 0 for a record that was not there
     * @param value nothing to say that there is none
     */
    record Edit<T>(String id, long basedOn, Optional<T> value) {}

    /**
     * What an operator says of many records from now on, all or nothing; otherwise as for one.
     *
     * @param facts the events recording the edits, committed together with them
     * @throws NotPermittedException if the operator may not say one of them
     * @throws EventLogException if somebody has said something else of one meanwhile, or it cannot be written
     */
    <T> void editAll(RegisterForm<T> form, List<Edit<T>> edits, Actor operator, Instant at, List<Event.Builder> facts) {
        Lookup all = new Lookup(true);
        edits.forEach(e -> permit(form, e.id(), e.value(), at, Optional.empty(), operator, at, all));
        Database.Work work = dsl -> {
            Map<String, Long> newest = dsl.select(ID, DSL.max(VERSION))
                    .from(REGISTER)
                    .where(KIND.eq(form.kind()))
                    .groupBy(ID)
                    .fetchMap(ID, DSL.max(VERSION));
            Added added = new Added(form);
            for (Edit<T> edit : edits) {
                Number last = newest.get(edit.id());
                long version = last == null ? 0 : last.longValue();
                if (version != edit.basedOn()) {
                    throw new EventLogException(
                            Saying.of("store.changed-meanwhile", form.kind(), edit.id(), version, edit.basedOn()),
                            null);
                }
                added.version(
                        edit.id(),
                        version + 1,
                        at,
                        Optional.empty(),
                        at,
                        SystemId.CUSTODIA,
                        operator.operator(),
                        edit.value().map(form::write));
            }
            added.write(dsl);
        };
        intake.commit(work, facts);
    }

    private <T> void permit(
            RegisterForm<T> form,
            String id,
            Optional<T> value,
            Instant from,
            Optional<Instant> to,
            Actor operator,
            Instant at,
            Lookup lookup) {
        // What is said meanwhile has another number, so that the edit is refused for that.
        List<T> touched = new ArrayList<>(lookup.of(form, id).within(id, from, to));
        value.ifPresent(touched::add);
        for (T one : touched) {
            for (Optional<SiteId> site : sites(one, at, lookup)) {
                if (site.isPresent()) {
                    operator.require(form.edited(), site.get());
                } else {
                    operator.requireEverywhere(form.edited());
                }
            }
        }
        if (touched.isEmpty()) {
            operator.requireEverywhere(form.edited());
        }
    }

    /** The sites that a record is of; nothing for one of no site, or of one that is not known. */
    private List<Optional<SiteId>> sites(Object record, Instant at, Lookup lookup) {
        if (record instanceof Site site) {
            return List.of(Optional.of(site.id()));
        }
        if (record instanceof Door door) {
            return List.of(Optional.of(door.site()));
        }
        if (record instanceof Camera camera) {
            return List.of(Optional.of(camera.site()));
        }
        if (record instanceof Reader reader) {
            return List.of(siteOf(reader.door(), at, lookup));
        }
        if (record instanceof Device device) {
            return List.of(Optional.of(device.site()));
        }
        if (record instanceof RegisterForm.Placed pair) {
            return List.of(
                    siteOf(pair.pairing().door(), at, lookup),
                    siteOf(Thing.of(pair.pairing().camera()), at, lookup));
        }
        if (record instanceof Placing placing) {
            // Where it is now, and where it will be; where a system has moved it meanwhile counts too.
            Set<Optional<SiteId>> all = new LinkedHashSet<>();
            all.add(siteOf(placing.thing(), at, lookup));
            all.add(placing.site().or(() -> ownSiteOf(placing.thing(), at, lookup)));
            return List.copyOf(all);
        }
        if (record instanceof RegisterForm.Seen seen) {
            return List.of(siteOf(seen.thing(), at, lookup));
        }
        if (record instanceof Lookout lookout) {
            Optional<SiteId> of = lookout.of() instanceof Lookout.OfZone zone
                    ? Optional.of(zone.site())
                    : siteOf(Thing.of(((Lookout.OfDevice) lookout.of()).device()), at, lookup);
            return List.of(of, siteOf(Thing.of(lookout.camera()), at, lookup));
        }
        if (record instanceof Walk walk) {
            return List.of(siteOf(walk.first(), at, lookup), siteOf(walk.second(), at, lookup));
        }
        return List.of(Optional.empty());
    }

    private Optional<SiteId> siteOf(DoorId door, Instant at, Lookup lookup) {
        return siteOf(Thing.of(door), at, lookup);
    }

    /** Where a thing is, as it stands here. */
    private Optional<SiteId> siteOf(Thing thing, Instant at, Lookup lookup) {
        return newest(RegisterForm.PLACING, thing.toString(), at, lookup)
                .flatMap(Placing::site)
                .or(() -> ownSiteOf(thing, at, lookup));
    }

    /** Where a system says, or said last, that a thing is. */
    private Optional<SiteId> ownSiteOf(Thing thing, Instant at, Lookup lookup) {
        return switch (thing.sort()) {
            case DOOR ->
                lookup.of(RegisterForm.DOOR, thing.id()).last(thing.id()).map(Door::site);
            case CAMERA ->
                lookup.of(RegisterForm.CAMERA, thing.id()).last(thing.id()).map(Camera::site);
            case DEVICE ->
                lookup.of(RegisterForm.DEVICE, thing.id()).last(thing.id()).map(Device::site);
        };
    }

    private <T> Optional<T> newest(RegisterForm<T> form, String id, Instant at, Lookup lookup) {
        return lookup.of(form, id).at(id, SystemId.CUSTODIA, at).value();
    }

    /** Reads what was said of records: for one edit just what it needs, for many each register once. */
    private final class Lookup {
        private final boolean many;
        private final Map<RegisterForm<?>, Timeline<?>> read = new HashMap<>();

        /**
         * @param many whether many records are asked for
         */
        Lookup(boolean many) {
            this.many = many;
        }

        @SuppressWarnings("unchecked")
        <T> Timeline<T> of(RegisterForm<T> form, String id) {
            return many
                    ? (Timeline<T>) read.computeIfAbsent(form, f -> timeline(form))
                    : timeline(form, KIND.eq(form.kind()).and(ID.eq(id)));
        }
    }

    /**
     * All that was ever said. Records that cannot be read are left out, and said to be.
     *
     * @throws EventLogException if it cannot be read
     */
    <T> Timeline<T> timeline(RegisterForm<T> form) {
        return timeline(form, KIND.eq(form.kind()));
    }

    private <T> Timeline<T> timeline(RegisterForm<T> form, Condition of) {
        List<Version<T>> all = new ArrayList<>();
        Set<String> unreadable = new HashSet<>();
        try {
            database.reader()
                    .select(ID, VERSION, FROM, TO, RECORDED, SOURCE, MADE_BY, PAYLOAD)
                    .from(REGISTER)
                    .where(of)
                    .orderBy(ID, VERSION)
                    .forEach(r -> {
                        Optional<T> value = Optional.ofNullable(r.value8()).flatMap(form::read);
                        if (r.value8() != null && value.isEmpty()) {
                            unreadable.add(r.value1());
                            return;
                        }
                        all.add(new Version<>(
                                r.value1(),
                                r.value2(),
                                EventRows.instant(r.value3()),
                                Optional.ofNullable(r.value4()).map(EventRows::instant),
                                EventRows.instant(r.value5()),
                                new SystemId(r.value6()),
                                Optional.ofNullable(r.value7()),
                                value));
                    });
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
        if (!unreadable.isEmpty()) {
            LOG.warn(
                    "{} records of the register of {}s cannot be read and are left out, {} among them. A newer Custodia may have written them.",
                    unreadable.size(),
                    form.kind(),
                    unreadable.iterator().next());
        }
        return new Timeline<>(all);
    }
}
