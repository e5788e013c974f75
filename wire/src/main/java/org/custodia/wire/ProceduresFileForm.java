package org.custodia.wire;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.List;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.ProcedureSheets;
import org.custodia.core.event.Priority;
import org.custodia.core.site.PersonId;

/** Procedures as JSON: one by one as they are kept, and as a file to be taken elsewhere. */
public final class ProceduresFileForm implements ProcedureSheets {
    private static final String MARK = "custodia-procedures";

    @Override
    public byte[] write(List<Procedure> procedures) {
        return Sheet.write(
                MARK,
                "procedures",
                procedures.stream().map(ProceduresFileForm::write).toList());
    }

    @Override
    public List<Procedure> read(byte[] file) {
        return Sheet.read(file, MARK, "procedures", ProceduresFileForm::read, Procedure::id);
    }

    /** One procedure, without its version. */
    public static ObjectNode write(Procedure procedure) {
        ObjectNode o = Wire.mapper().createObjectNode();
        o.put("id", procedure.id()).put("name", procedure.name());
        Sheet.texts(o, "priorities", procedure.of().priorities(), Sheet::word);
        Sheet.texts(o, "rules", procedure.of().rules(), r -> r);
        RulesFileForm.where(o, procedure.of().where());
        Sheet.texts(o, "people", procedure.of().people(), PersonId::value);
        ArrayNode steps = o.putArray("steps");
        procedure.steps().forEach(s -> {
            var one = steps.addObject().put("text", s.text()).put("required", s.required());
            if (s.onceOver()) {
                one.put("onceOver", true);
            }
        });
        return o;
    }

    /**
     * One procedure that was written so, in version 0.
     *
     * @throws IllegalArgumentException if it says what cannot be; the message says where
     */
    public static Procedure read(JsonNode o) {
        Sheet.need(o.isObject(), "one of its procedures is none");
        String id = Sheet.text(o, "id");
        String name = "the procedure \"" + id + "\"";
        Sheet.only(o, name, "id", "name", "priorities", "rules", "where", "people", "steps");
        List<Procedure.Step> steps = new ArrayList<>();
        for (JsonNode step : Sheet.list(o, "steps")) {
            Sheet.only(step, name, "text", "required", "onceOver");
            steps.add(new Procedure.Step(
                    Sheet.text(step, "text"),
                    Sheet.flag(step, "required", false),
                    Sheet.flag(step, "onceOver", false)));
        }
        return new Procedure(
                id,
                0,
                Sheet.text(o, "name"),
                new Procedure.Of(
                        Sheet.set(o, "priorities", p -> Sheet.choice(Priority.class, p)),
                        Sheet.set(o, "rules", r -> r),
                        RulesFileForm.where(o.path("where"), name),
                        Sheet.set(o, "people", PersonId::new)),
                steps);
    }
}
