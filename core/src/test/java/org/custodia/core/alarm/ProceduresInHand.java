package org.custodia.core.alarm;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;
import org.custodia.core.saying.Saying;

/** Versions of procedures in memory, none of those that ship among them, and a file that is what was written last. */
public final class ProceduresInHand extends VersionsInHand<Procedure> implements ProcedureSheets {
    private List<Procedure> written = List.of();

    public ProceduresInHand() {
        super(Procedure::version);
        Procedure.shipped().forEach(p -> begin(p.id(), Optional.empty()));
    }

    @Override
    public byte[] write(List<Procedure> procedures) {
        written = List.copyOf(procedures);
        return "procedures".getBytes(StandardCharsets.UTF_8);
    }

    @Override
    public List<Procedure> read(byte[] file) {
        if (!new String(file, StandardCharsets.UTF_8).equals("procedures")) {
            throw new AlarmException(Saying.of("rule.file-odd", "it is none"));
        }
        return written;
    }
}
