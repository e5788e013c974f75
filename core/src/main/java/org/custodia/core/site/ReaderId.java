package org.custodia.core.site;

/**
 * Names a reader as its own system does.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record ReaderId(String value) {
    public ReaderId {
        Ids.check(value);
    }

    @Override
    public String toString() {
        return value;
    }
}
