package org.custodia.core.access;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;

/** The people and badges on file, as they are and as they were. Safe for use by several threads. */
public interface PersonRegister {
    /** Who somebody was at an instant, whatever has become of the record since. */
    default OnFile<Person> person(PersonId id, Instant at) {
        return person(id, at, Instant.MAX);
    }

    /**
     * The same, as far as was known at another instant.
     *
     * @param known what was recorded later is left out
     */
    OnFile<Person> person(PersonId id, Instant at, Instant known);

    /**
     * Whose badge a number of a system was at an instant.
     *
     * @param kind of what was presented, where that is known; without it, a number under which two people have something is
     *     nobody's
     */
    default OnFile<Credential> credential(SystemId system, String number, Optional<Credential.Kind> kind, Instant at) {
        return credential(system, number, kind, at, Instant.MAX);
    }

    /**
     * The same, as far as was known at another instant.
     *
     * @param known what was recorded later is left out
     */
    OnFile<Credential> credential(
            SystemId system, String number, Optional<Credential.Kind> kind, Instant at, Instant known);

    /** People whose name, company or badge number has all the words, best match first. */
    List<Person> search(String words, int most);

    /** The companies that people on file are of, in order. */
    default List<String> companies() {
        return List.of();
    }

    /** The badges of a person now. */
    List<Credential> credentialsOf(PersonId id);

    /** The enrolled photo as JPEG; nothing where there is none or it has not been fetched yet. */
    Optional<byte[]> photo(PersonId id);

    /** How many people are on file. */
    int size();
}
