package org.custodia.core.alarm;

import java.util.List;

/** Procedures as a file to be kept or taken elsewhere. */
public interface ProcedureSheets {
    /** Some procedures as a file. */
    byte[] write(List<Procedure> procedures);

    /**
     * The procedures of a file.
     *
     * @throws AlarmException if it is none, or of a version that is not known here
     */
    List<Procedure> read(byte[] file);
}
