package org.custodia.core.site;

/**
 * Names a controller: the system's id, a slash, and the system's own id for it.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record ControllerId(String value) {
    public ControllerId {
        Ids.check(value);
    }

    @Override
    public String toString() {
        return value;
    }
}
