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
import org.custodia.core.access.OnFile;
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

    /** All that was ever on file, and how it is found. */
    private record Index(
            Then then,
            Map<String, List<String>> byNumber,
            Map<PersonId, Person> peopleNow,
            Map<PersonId, List<Credential>> credentialsNow) {}

    public SqlPersonRegister(Registers registers, Database database, Clock clock) {
        this.registers = registers;
        this.database = database;
        this.clock = clock;
        this.index = load();
    }

    /** All that was ever on file of people and badges. */
    record Then(Timeline<Person> people, Timeline<Credential> credentials) {}

    Then then() {
        Index here = index;
        return here.then();
    }

    private Index load() {
        Timeline<Person> people = registers.timeline(RegisterForm.PERSON);
        Timeline<Credential> credentials = registers.timeline(RegisterForm.CREDENTIAL);
        Timeline.readTogether(List.of(people, credentials));
        Map<String, List<String>> byNumber = new HashMap<>();
        for (String id : credentials.ids()) {
            credentials.versions(id).stream()
                    .flatMap(v -> v.value().stream())
                    .map(Credential::number)
                    .distinct()
                    .forEach(number -> byNumber.computeIfAbsent(name(SystemId.of(id), number), n -> new ArrayList<>(1))
                            .add(id));
        }
        Instant now = clock.instant();
        Map<PersonId, Person> peopleNow = new LinkedHashMap<>();
        people.all(now).values().forEach(p -> peopleNow.put(p.id(), p));
        Map<PersonId, List<Credential>> credentialsNow = new HashMap<>();
        credentials.all(now).values().forEach(c -> credentialsNow
                .computeIfAbsent(c.person(), p -> new ArrayList<>(1))
                .add(c));
        return new Index(new Then(people, credentials), byNumber, peopleNow, credentialsNow);
    }

    /** A number of a system. */
    private static String name(SystemId system, String number) {
        return system.value() + "/" + number;
    }

    /** Takes over what an access system has on file. */
    public void replace(SystemId system, List<Person> people, List<Credential> credentials) {
        Map<String, Person> persons = new LinkedHashMap<>();
        people.forEach(p -> persons.put(p.id().value(), p));
        Map<String, Credential> badges = new LinkedHashMap<>();
        // A card and a phone under one number are two.
        credentials.forEach(
                c -> badges.put(name(system, c.number()) + " " + c.kind().id(), c));
        Instant at = clock.instant();
        int changes = registers.replace(RegisterForm.PERSON, system, persons, true, at);
        changes += registers.replace(RegisterForm.CREDENTIAL, system, badges, true, at);
        if (changes > 0) {
            index = load();
        }
    }

    @Override
    public OnFile<Person> person(PersonId id, Instant at, Instant known) {
        return index.then().people().at(id.value(), SystemId.of(id.value()), at, known);
    }

    @Override
    public OnFile<Credential> credential(
            SystemId system, String number, Optional<Credential.Kind> kind, Instant at, Instant known) {
        Index here = index;
        List<OnFile<Credential>> found = here.byNumber().getOrDefault(name(system, number), List.of()).stream()
                .map(id -> here.then().credentials().at(id, system, at, known))
                .filter(c -> c.value().filter(v -> v.number().equals(number)).isPresent())
                .toList();
        List<OnFile<Credential>> ofKind = found.stream()
                .filter(c -> kind.isEmpty() || c.value().map(Credential::kind).equals(kind))
                .toList();
        // What a reader says of the kind may be more or less than what is on file.
        List<OnFile<Credential>> fitting = ofKind.isEmpty() ? found : ofKind;
        if (fitting.isEmpty()) {
            OnFile<Credential> none = here.then().credentials().at(name(system, number) + " ", system, at, known);
            boolean read =
                    here.then().people().at(name(system, ""), system, at, known).standing() == OnFile.Standing.NOT_THEN;
            return read ? OnFile.notThen() : none;
        }
        long people = fitting.stream()
                .flatMap(c -> c.value().stream())
                .map(Credential::person)
                .distinct()
                .count();
        return people == 1 ? fitting.get(0) : OnFile.notThen();
    }

    @Override
    public List<Credential> credentialsOf(PersonId id) {
        return index.credentialsNow().getOrDefault(id, List.of());
    }

    @Override
    public List<String> companies() {
        return index.peopleNow().values().stream()
                .map(Person::company)
                .filter(c -> !c.isBlank())
                .distinct()
                .sorted()
                .toList();
    }

    @Override
    public List<Person> search(String words, int most) {
        List<String> wanted = List.of(words.trim().toLowerCase(Locale.ROOT).split("\\s+"));
        Index now = index;
        record Hit(Person person, int rank) {}
        return now.peopleNow().values().stream()
                .map(p -> new Hit(p, rank(p, now.credentialsNow().getOrDefault(p.id(), List.of()), wanted)))
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
        return index.peopleNow().size();
    }
}
