package org.custodia.core.access;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.site.PersonId;

/** The people and badges on file, as they are and as they were. Safe for use by several threads. */
public interface PersonRegister {
    Optional<Person> person(PersonId id);

    /** Whose badge this number was at an instant. */
    Optional<Credential> credential(String number, Instant at);

    /** People whose name, company or badge number has all the words, best match first. */
    List<Person> search(String words, int most);

    /** The badges of a person now. */
    List<Credential> credentialsOf(PersonId id);

    /** The enrolled photo as JPEG; nothing where there is none or it has not been fetched yet. */
    Optional<byte[]> photo(PersonId id);

    /** How many people are on file. */
    int size();
}
