package org.custodia.core.site;

/**
 * Names a person as the system that sent the record does, with the system's id before it.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record PersonId(String value) {
    public PersonId {
        Ids.check(value);
    }

    @Override
    public String toString() {
        return value;
    }
}
