package org.custodia.store;

import org.jooq.ConverterContext;
import org.jooq.DataType;
import org.jooq.Field;
import org.jooq.impl.AbstractContextConverter;
import org.jooq.impl.DSL;
import org.jooq.impl.SQLDataType;

/** Columns of texts that come from outside and may hold any character. */
final class StoredText extends AbstractContextConverter<String, String> {
    private static final long serialVersionUID = 1L;
    private static final DataType<String> TYPE = SQLDataType.CLOB.asConvertedDataType(new StoredText());

    private StoredText() {
        super(String.class, String.class);
    }

    static Field<String> column(String name) {
        return DSL.field(name, TYPE);
    }

    /** A text in a statement. */
    static Field<String> value(String text) {
        return DSL.val(text, TYPE);
    }

    @Override
    public String from(String stored, ConverterContext context) {
        return Dialect.of(context.dialect()).read(stored);
    }

    @Override
    public String to(String text, ConverterContext context) {
        return Dialect.of(context.dialect()).stored(text);
    }
}
