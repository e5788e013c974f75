package org.custodia.core.alarm;

import java.util.List;

/** Rules as a file to be kept or taken elsewhere. */
public interface RuleSheets {
    /** Some rules as a file. */
    byte[] write(List<Rule> rules);

    /**
     * The rules of a file.
     *
     * @throws AlarmException if it is none, or of a version that is not known here
     */
    List<Rule> read(byte[] file);
}
