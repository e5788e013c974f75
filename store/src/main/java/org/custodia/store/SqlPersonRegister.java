package org.custodia.store;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.impl.DSL;

/** People and badges as the access systems sent them, in memory with all their versions, photos in the database. */
public final class SqlPersonRegister implements PersonRegister {
    private static final Table<Record> PHOTO = DSL.table("photo");
    private static final Field<String> PERSON = StoredText.column("person");
    private static final Field<String> VERSION = StoredText.column("version");
    private static final Field<byte[]> JPEG = DSL.field("jpeg", byte[].class);

    private final Registers registers;
    private final Database database;
    private final Clock clock;
    private volatile Index index;

    private record Index(
            Map<PersonId, Person> people,
            Map<String, List<Registers.Version<Credential>>> credentials,
            Map<PersonId, List<Credential>> current) {}

    public SqlPersonRegister(Registers registers, Database database, Clock clock) {
        this.registers = registers;
        this.database = database;
        this.clock = clock;
        this.index = load();
    }

    private Index load() {
        Map<PersonId, Person> people = new LinkedHashMap<>();
        registers.current("person", Person.class).forEach(p -> people.put(p.id(), p));
        Map<String, List<Registers.Version<Credential>>> credentials = new HashMap<>();
        Map<PersonId, List<Credential>> current = new HashMap<>();
        registers.versions("credential", Credential.class).forEach(v -> {
            credentials
                    .computeIfAbsent(v.value().number(), n -> new ArrayList<>())
                    .add(v);
            if (v.to().isEmpty()) {
                current.computeIfAbsent(v.value().person(), p -> new ArrayList<>())
                        .add(v.value());
            }
        });
        return new Index(people, credentials, current);
    }

    /** Takes over what an access system has on file. */
    public void replace(SystemId system, List<Person> people, List<Credential> credentials) {
        String prefix = system.value() + "/";
        Map<String, Person> persons = new LinkedHashMap<>();
        people.forEach(p -> persons.put(p.id().value(), p));
        Map<String, Credential> badges = new LinkedHashMap<>();
        credentials.forEach(c -> badges.put(prefix + c.number(), c));
        int changes = registers.replace("person", prefix, persons, clock.instant());
        changes += registers.replace("credential", prefix, badges, clock.instant());
        if (changes > 0) {
            index = load();
        }
    }

    @Override
    public Optional<Person> person(PersonId id) {
        return Optional.ofNullable(index.people().get(id));
    }

    @Override
    public Optional<Credential> credential(String number, Instant at) {
        return index.credentials().getOrDefault(number, List.of()).stream()
                .filter(v -> !v.from().isAfter(at)
                        && v.to().filter(t -> !t.isAfter(at)).isEmpty())
                .map(Registers.Version::value)
                .findFirst();
    }

    @Override
    public List<Credential> credentialsOf(PersonId id) {
        return index.current().getOrDefault(id, List.of());
    }

    @Override
    public List<Person> search(String words, int most) {
        List<String> wanted = List.of(words.trim().toLowerCase(Locale.ROOT).split("\\s+"));
        Index now = index;
        record Hit(Person person, int rank) {}
        return now.people().values().stream()
                .map(p -> new Hit(p, rank(p, now.current().getOrDefault(p.id(), List.of()), wanted)))
                .filter(h -> h.rank() >= 0)
                .sorted(Comparator.comparingInt(Hit::rank)
                        .thenComparing(h -> h.person().name()))
                .limit(most)
                .map(Hit::person)
                .toList();
    }

    /** 0 for a name that begins with the words, more for lesser matches, -1 for none. */
    private static int rank(Person person, List<Credential> badges, List<String> words) {
        String name = person.name().toLowerCase(Locale.ROOT);
        String numbers = badges.stream().map(Credential::number).collect(Collectors.joining(" "));
        String all = name + " " + person.company().toLowerCase(Locale.ROOT) + " " + numbers;
        if (!words.stream().allMatch(all::contains)) {
            return -1;
        }
        String first = words.get(0);
        if (name.startsWith(first)) {
            return 0;
        }
        return name.contains(" " + first) ? 1 : 2;
    }

    @Override
    public Optional<byte[]> photo(PersonId id) {
        return database.reader()
                .select(JPEG)
                .from(PHOTO)
                .where(PERSON.eq(id.value()))
                .fetchOptional(JPEG);
    }

    /** The version of the stored photo. */
    public Optional<String> photoVersion(PersonId id) {
        return database.reader()
                .select(VERSION)
                .from(PHOTO)
                .where(PERSON.eq(id.value()))
                .fetchOptional(VERSION);
    }

    /** Keeps a photo in place of the one before. */
    public void keepPhoto(PersonId id, String version, byte[] jpeg) {
        database.write(dsl -> {
            dsl.deleteFrom(PHOTO).where(PERSON.eq(id.value())).execute();
            dsl.insertInto(PHOTO)
                    .columns(PERSON, VERSION, JPEG)
                    .values(id.value(), version, jpeg)
                    .execute();
        });
    }

    @Override
    public int size() {
        return index.people().size();
    }
}
