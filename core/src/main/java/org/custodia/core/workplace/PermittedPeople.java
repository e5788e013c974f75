package org.custodia.core.workplace;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.access.Credential;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;

/**
 * The people on file. They belong to no site, since somebody who is on file for one comes to another: who may see who
 * somebody is at some site may do so for all, and likewise who may search. Everything throws {@link NotPermittedException}
 * for who may not.
 */
final class PermittedPeople implements PersonRegister {
    private final Permit permit;
    private final PersonRegister people;

    PermittedPeople(Permit permit, PersonRegister people) {
        this.permit = permit;
        this.people = people;
    }

    @Override
    public OnFile<Person> person(PersonId id, Instant at, Instant known) {
        permit.requireSomewhere(Sight.NAMES);
        return people.person(id, at, known);
    }

    @Override
    public OnFile<Credential> credential(
            SystemId system, String number, Optional<Credential.Kind> kind, Instant at, Instant known) {
        permit.requireSomewhere(Sight.NAMES);
        return people.credential(system, number, kind, at, known);
    }

    @Override
    public List<Person> search(String words, int most) {
        permit.requireSomewhere(Sight.PEOPLE);
        return people.search(words, most);
    }

    @Override
    public List<String> companies() {
        permit.requireSomewhere(Sight.PEOPLE);
        return people.companies();
    }

    @Override
    public List<Credential> credentialsOf(PersonId id) {
        permit.requireSomewhere(Sight.PEOPLE);
        return people.credentialsOf(id);
    }

    @Override
    public Optional<byte[]> photo(PersonId id) {
        permit.requireSomewhere(Sight.NAMES);
        return people.photo(id);
    }

    @Override
    public int size() {
        permit.requireSomewhere(Sight.PEOPLE);
        return people.size();
    }
}
