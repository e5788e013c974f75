package org.custodia.core.site;

/**
 * Names one connected system, an access system or a recorder, or Custodia itself for what it logs of its own.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record SystemId(String value) {
    public SystemId {
        Ids.check(value);
    }

    @Override
    public String toString() {
        return value;
    }
}
