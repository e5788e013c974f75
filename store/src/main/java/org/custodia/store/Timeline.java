package org.custodia.store;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.function.Function;
import org.custodia.core.access.OnFile;
import org.custodia.core.setup.ChangeBook;
import org.custodia.core.site.SystemId;

/** All that was ever said in a register, by id, and what follows for any instant. Not changed once it is read. */
final class Timeline<T> {
    private final Map<String, List<Registers.Version<T>>> versions = new LinkedHashMap<>();
    /** When each source was first heard of. */
    private final Map<SystemId, Instant> first = new HashMap<>();

    private final TreeSet<Instant> changes = new TreeSet<>();

    /**
     * @param all in the order of their numbers, within each id
     */
    Timeline(List<Registers.Version<T>> all) {
        for (Registers.Version<T> version : all) {
            versions.computeIfAbsent(version.id(), i -> new ArrayList<>(1)).add(version);
            first.merge(version.source(), version.recorded(), (a, b) -> a.isBefore(b) ? a : b);
            changes.add(version.from());
            version.to().ifPresent(changes::add);
        }
    }

    /** Registers that a source tells of in one go: where one of them had nothing at first, that is known as well. */
    static void readTogether(List<Timeline<?>> together) {
        Map<SystemId, Instant> earliest = new HashMap<>();
        for (Timeline<?> one : together) {
            one.first.forEach((source, read) -> earliest.merge(source, read, (a, b) -> a.isBefore(b) ? a : b));
        }
        together.forEach(t -> t.first.putAll(earliest));
    }

    /** When anything began or ceased to be so. */
    TreeSet<Instant> changes() {
        return changes;
    }

    /** When a source was heard of for the first time. */
    Optional<Instant> read(SystemId source) {
        return Optional.ofNullable(first.get(source));
    }

    /** Every version of a record, the first one first. */
    List<Registers.Version<T>> versions(String id) {
        return versions.getOrDefault(id, List.of());
    }

    /** The number of a record's newest version; 0 where there was none. */
    long newest(String id) {
        List<Registers.Version<T>> all = versions(id);
        return all.isEmpty() ? 0 : all.get(all.size() - 1).version();
    }

    /** The newest version of each record. */
    List<Registers.Version<T>> newestVersions() {
        return versions.values().stream().map(all -> all.get(all.size() - 1)).toList();
    }

    /** What was said of a record last that was not that it is no more. */
    Optional<T> last(String id) {
        List<Registers.Version<T>> all = versions(id);
        for (int i = all.size() - 1; i >= 0; i--) {
            if (all.get(i).value().isPresent()) {
                return all.get(i).value();
            }
        }
        return Optional.empty();
    }

    /** What was said of a record before a version of it; nothing where it was not there. */
    Optional<T> before(String id, long version) {
        return versions(id).stream()
                .filter(v -> v.version() < version)
                .reduce((a, b) -> b)
                .flatMap(Registers.Version::value);
    }

    /**
     * What operators said, those together that one of them said in one go; in no order.
     *
     * @param shown of a record, what is told of it
     */
    List<ChangeBook.Change> changes(ChangeBook.About about, Function<T, Object> shown) {
        Map<List<Object>, List<ChangeBook.Part>> together = new LinkedHashMap<>();
        for (String id : ids()) {
            for (Registers.Version<T> version : versions(id)) {
                version.madeBy().ifPresent(by -> together.computeIfAbsent(
                                List.of(version.recorded(), by), k -> new ArrayList<>())
                        .add(new ChangeBook.Part(
                                id,
                                version.version(),
                                version.version() == newest(id),
                                before(id, version.version()).map(shown),
                                version.value().map(shown))));
            }
        }
        return together.entrySet().stream()
                .map(e -> new ChangeBook.Change(
                        about, (Instant) e.getKey().get(0), (String) e.getKey().get(1), e.getValue()))
                .toList();
    }

    /** All ids there ever were. */
    Iterable<String> ids() {
        return versions.keySet();
    }

    /** What was so at an instant, as far as is known by now. */
    OnFile<T> at(String id, SystemId source, Instant at) {
        return at(id, source, at, Instant.MAX);
    }

    /**
     * What was so at an instant, as far as was known at another.
     *
     * @param source of the record, where it is not there
     */
    OnFile<T> at(String id, SystemId source, Instant at, Instant known) {
        List<Registers.Version<T>> all = versions(id);
        for (int i = all.size() - 1; i >= 0; i--) {
            Registers.Version<T> version = all.get(i);
            if (version.covers(at) && !version.recorded().isAfter(known)) {
                return version.value().map(OnFile::then).orElseGet(OnFile::notThen);
            }
        }
        Instant read = first.get(all.isEmpty() ? source : all.get(0).source());
        if (read == null || read.isAfter(known)) {
            return OnFile.notKnownYet();
        }
        if (!at.isBefore(read)) {
            return OnFile.notThen();
        }
        // Nobody knows how it was before the register was read for the first time; it may have been as it was then.
        return all.stream()
                .filter(v -> v.recorded().equals(read) && v.value().isPresent())
                .findFirst()
                .map(v -> OnFile.asReadLater(v.value().get()))
                .orElseGet(OnFile::notKnownYet);
    }

    /** All that a record was at any time of a span. */
    List<T> within(String id, Instant from, Optional<Instant> to) {
        TreeSet<Instant> instants = new TreeSet<>(changes.tailSet(from));
        instants.add(from);
        return instants.stream()
                .filter(i -> to.filter(t -> !i.isBefore(t)).isEmpty())
                .flatMap(i -> at(id, SystemId.CUSTODIA, i).value().stream())
                .distinct()
                .toList();
    }

    /**
     * All there was at an instant of what operators say: before they said anything it was not so, while of what a system has
     * nobody knows how it was before the system was asked.
     */
    Map<String, T> allSaid(Instant at) {
        Map<String, T> result = new LinkedHashMap<>();
        for (String id : ids()) {
            List<Registers.Version<T>> all = versions(id);
            for (int i = all.size() - 1; i >= 0; i--) {
                if (all.get(i).covers(at)) {
                    all.get(i).value().ifPresent(v -> result.put(id, v));
                    break;
                }
            }
        }
        return result;
    }

    /** All there was at an instant, in the order of ids. */
    Map<String, T> all(Instant at) {
        return all(at, Instant.MAX);
    }

    /** The same, as far as was known at another instant. */
    Map<String, T> all(Instant at, Instant known) {
        Map<String, T> result = new LinkedHashMap<>();
        for (String id : ids()) {
            at(id, SystemId.CUSTODIA, at, known).value().ifPresent(v -> result.put(id, v));
        }
        return result;
    }
}
