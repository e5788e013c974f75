package org.custodia.store;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.event.EventField;
import org.custodia.core.event.Filter;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record1;
import org.jooq.Select;
import org.jooq.SelectConditionStep;
import org.jooq.impl.DSL;

/**
 * A filter as conditions on rows. What it says of occasions and bearers is looked up once, so that rows are compared by
 * numbers; and where it lets only few of them pass, their indexes lead to the rows.
 */
final class FilterSql {
    /** So many numbers are written out; more are left to the database. */
    static final int FEW = 500;
    /** Something that is known of no more people and badges than this is worth following by them. */
    private static final int RARE = 50;

    private static final Set<EventField<?>> OF_OCCASIONS = Set.of(
            EventField.SYSTEM,
            EventField.KIND,
            EventField.REASON,
            EventField.CODE,
            EventField.DOOR,
            EventField.CONTROLLER,
            EventField.READER,
            EventField.SIDE);

    private final DSLContext dsl;
    private final Dialect dialect;
    private final Filter filter;
    private final Map<Filter, Occasions> looked = new HashMap<>();
    private final Map<Filter, Numbers> numbered = new HashMap<>();

    FilterSql(DSLContext dsl, Filter filter) {
        this.dsl = dsl;
        this.dialect = Dialect.of(dsl.dialect());
        this.filter = filter;
    }

    /**
     * Rows that an index finds: those with one of some numbers in a column.
     *
     * @param expected how many rows there are, as far as that is known without counting them
     * @param occasions the numbers, where they are of occasions: what finds them one by one
     * @param rest what the filter asks for besides, of the rows that the index leads to
     */
    record Lead(Condition rows, Optional<Long> expected, Optional<Select<Record1<Long>>> occasions, Condition rest) {
        /** One of another column than that of occasions, whose rows are compared with all that the filter says. */
        Lead(Condition rows, Optional<Long> expected) {
            this(rows, expected, Optional.empty(), DSL.noCondition());
        }
    }

    /** Whether the filter says nothing of what is not the same for all events of an occasion. */
    boolean exact() {
        return ofOccasions(filter);
    }

    /** Whether it lets everything pass. */
    boolean everything() {
        return filter instanceof Filter.And and && and.parts().isEmpty();
    }

    static boolean ofOccasions(EventField<?> field) {
        return OF_OCCASIONS.contains(field);
    }

    private static boolean ofOccasions(Filter f) {
        if (f instanceof Filter.Is<?> is) {
            return ofOccasions(is.field());
        }
        if (f instanceof Filter.Known known) {
            return ofOccasions(known.field());
        }
        if (f instanceof Filter.And and) {
            return and.parts().stream().allMatch(FilterSql::ofOccasions);
        }
        if (f instanceof Filter.Or or) {
            return or.parts().stream().allMatch(FilterSql::ofOccasions);
        }
        return f instanceof Filter.Not not && ofOccasions(not.part());
    }

    /** The filter as a condition on rows of the table of occasions; only where it is exact. */
    Condition occasions() {
        return dictionary(filter);
    }

    /** The filter as a condition on rows of events, written so that no index is chosen for it. */
    Condition rows() {
        return rows(filter);
    }

    private Condition rows(Filter f) {
        if (ofOccasions(f)) {
            return inOccasions(f);
        }
        if (f instanceof Filter.And and) {
            // What is said of occasions is looked up in one go.
            List<Filter> same =
                    and.parts().stream().filter(FilterSql::ofOccasions).toList();
            List<Condition> all = new ArrayList<>();
            if (!same.isEmpty()) {
                all.add(inOccasions(new Filter.And(same)));
            }
            and.parts().stream().filter(p -> !ofOccasions(p)).forEach(p -> all.add(rows(p)));
            return all.contains(DSL.falseCondition()) ? DSL.falseCondition() : DSL.and(all);
        }
        if (f instanceof Filter.Or or) {
            return DSL.or(or.parts().stream().map(this::rows).toList());
        }
        if (f instanceof Filter.Not not) {
            return DSL.not(rows(not.part()));
        }
        if (f instanceof Filter.Late) {
            return dialect.unindexed(EventRows.LATE).eq(DSL.inline(1));
        }
        EventField<?> field = f instanceof Filter.Is<?> is ? is.field() : ((Filter.Known) f).field();
        Field<Long> number = column(field);
        Field<Long> unindexed = dialect.unindexed(number);
        if (f instanceof Filter.Is<?> is) {
            Condition condition = in(unindexed, numbers(is));
            // What is absent is not one of them, and the contrary of that is true.
            return condition.equals(DSL.falseCondition())
                    ? condition
                    : number.isNotNull().and(condition);
        }
        return ofBearers(field) ? number.isNotNull().and(unindexed.in(knownBearers(field))) : number.isNotNull();
    }

    private static boolean ofBearers(EventField<?> field) {
        return field == EventField.PERSON || field == EventField.CREDENTIAL;
    }

    private static Field<Long> column(EventField<?> field) {
        if (ofBearers(field)) {
            return EventRows.BEARER_NUMBER;
        }
        return field == EventField.OPERATOR ? EventRows.OPERATOR_NUMBER : EventRows.CAUSE_NUMBER;
    }

    private Select<Record1<Long>> knownBearers(EventField<?> field) {
        return DSL.select(EventRows.BEARER_ID)
                .from(EventRows.BEARER)
                .where(DSL.field("b." + field.name()).isNotNull());
    }

    /** Either numbers or what finds them. */
    private record Numbers(List<Long> few, Select<Record1<Long>> many) {}

    private static Condition in(Field<Long> column, Numbers numbers) {
        if (numbers.few() == null) {
            return column.in(numbers.many());
        }
        return numbers.few().isEmpty() ? DSL.falseCondition() : column.in(inline(numbers.few()));
    }

    private static List<Field<Long>> inline(Collection<Long> numbers) {
        return numbers.stream().map(DSL::inline).collect(Collectors.toList());
    }

    /** Looked up once, however often it is asked for. */
    private Numbers numbers(Filter.Is<?> is) {
        return numbered.computeIfAbsent(is, f -> {
            List<Long> ids = dsl.fetch(named(is).limit(FEW + 1)).getValues(0, Long.class);
            return ids.size() <= FEW ? new Numbers(ids, null) : new Numbers(null, named(is));
        });
    }

    /** The rows of people and badges, or of words, that bear one of some names. */
    private static SelectConditionStep<Record1<Long>> named(Filter.Is<?> is) {
        boolean bearers = ofBearers(is.field());
        Field<Long> id = DSL.field(bearers ? "b.id" : "v.id", Long.class);
        Field<String> text = StoredText.column(bearers ? "b." + is.field().name() : "v.text");
        return DSL.select(id)
                .from(bearers ? EventRows.BEARER : DSL.table("word").as("v"))
                .where(text.in(texts(is)));
    }

    private static <T> List<String> texts(Filter.Is<T> is) {
        return is.values().stream().map(is.field()::text).toList();
    }

    private Condition inOccasions(Filter f) {
        if (f instanceof Filter.And and && and.parts().isEmpty()) {
            return DSL.noCondition();
        }
        Field<Long> column = dialect.unindexed(EventRows.OCCASION_NUMBER);
        Numbers inside = occasions(f).numbers();
        if (inside.few() != null) {
            return in(column, inside);
        }
        Numbers outside = occasions(new Filter.Not(f)).numbers();
        return outside.few() != null ? DSL.not(in(column, outside)) : in(column, inside);
    }

    private static Select<Record1<Long>> ids(Condition condition) {
        return DSL.select(EventRows.OCCASION_ID).from(EventRows.OCCASION).where(condition);
    }

    private static Condition dictionary(Filter f) {
        if (f instanceof Filter.And and) {
            return and.parts().isEmpty()
                    ? DSL.trueCondition()
                    : DSL.and(and.parts().stream().map(p -> dictionary(p)).toList());
        }
        if (f instanceof Filter.Or or) {
            return or.parts().isEmpty()
                    ? DSL.falseCondition()
                    : DSL.or(or.parts().stream().map(p -> dictionary(p)).toList());
        }
        if (f instanceof Filter.Not not) {
            return DSL.not(dictionary(not.part()));
        }
        EventField<?> field = f instanceof Filter.Is<?> is ? is.field() : ((Filter.Known) f).field();
        Field<String> column = StoredText.column("o." + field.name());
        return f instanceof Filter.Is<?> is ? column.isNotNull().and(column.in(texts(is))) : column.isNotNull();
    }

    /**
     * The indexes that together lead to all rows of the filter; nothing if there are none that are worth it.
     *
     * @param most an index is followed from so many numbers at most
     */
    Optional<List<Lead>> leads(int most) {
        return leads(filter, most);
    }

    private Optional<List<Lead>> leads(Filter f, int most) {
        if (ofOccasions(f)) {
            return lead(f, DSL.noCondition(), most).map(List::of);
        }
        if (f instanceof Filter.And and) {
            List<Filter> same =
                    and.parts().stream().filter(FilterSql::ofOccasions).toList();
            Optional<List<Lead>> best = same.isEmpty()
                    ? Optional.empty()
                    : lead(new Filter.And(same), rest(and), most).map(List::of);
            if (best.isPresent() && expected(best.get()).orElse(Long.MAX_VALUE) <= 500) {
                return best;
            }
            for (Filter part : and.parts()) {
                Optional<List<Lead>> other = ofOccasions(part) ? Optional.empty() : leads(part, most);
                if (other.isPresent()) {
                    return other;
                }
            }
            return best;
        }
        if (f instanceof Filter.Or or) {
            List<Lead> all = new ArrayList<>();
            for (Filter part : or.parts()) {
                Optional<List<Lead>> some = leads(part, most);
                if (some.isEmpty() || all.size() > 8) {
                    return Optional.empty();
                }
                all.addAll(some.get());
            }
            return Optional.of(all);
        }
        if (f instanceof Filter.Late) {
            return Optional.of(List.of(new Lead(DSL.condition("e.late = 1"), Optional.empty())));
        }
        if (f instanceof Filter.Is<?> is) {
            Numbers numbers = numbers(is);
            return numbers.few() == null && dsl.fetchCount(numbers.many()) > most
                    ? Optional.empty()
                    : Optional.of(List.of(new Lead(in(column(is.field()), numbers), Optional.empty())));
        }
        if (f instanceof Filter.Known known) {
            return known(known.field());
        }
        return Optional.empty();
    }

    /** Where a field is seldom known its index leads to what has it. */
    private Optional<List<Lead>> known(EventField<?> field) {
        if (!ofBearers(field)) {
            return Optional.of(List.of(new Lead(column(field).isNotNull(), Optional.empty())));
        }
        List<Long> some = dsl.fetch(DSL.select(EventRows.BEARER_ID)
                        .from(EventRows.BEARER)
                        .where(DSL.field("b." + field.name()).isNotNull())
                        .limit(RARE + 1))
                .getValues(0, Long.class);
        return some.size() > RARE
                ? Optional.empty()
                : Optional.of(List.of(new Lead(in(column(field), new Numbers(some, null)), Optional.empty())));
    }

    /** How many rows indexes lead to; nothing where that is not known. */
    static Optional<Long> expected(List<Lead> leads) {
        return leads.stream()
                .map(Lead::expected)
                .reduce((a, b) -> a.flatMap(x -> b.map(y -> x + y)))
                .orElse(Optional.empty());
    }

    /** What is said besides of what is not the same for all events of an occasion. */
    private Condition rest(Filter.And and) {
        return DSL.and(and.parts().stream()
                .filter(p -> !ofOccasions(p))
                .map(this::rows)
                .toList());
    }

    private Optional<Lead> lead(Filter f, Condition rest, int most) {
        Occasions found = occasions(f);
        if (found.numbers().few() == null) {
            return leadToMany(f, found.numbers(), rest, most);
        }
        List<Long> few = found.numbers().few();
        if (few.size() > most) {
            return Optional.empty();
        }
        Select<Record1<Long>> each = few.isEmpty()
                ? DSL.select(DSL.inline(0L)).where(DSL.falseCondition())
                : DSL.select(DSL.field("unnest(array[{0}]::bigint[])", Long.class, DSL.list(inline(few))));
        return Optional.of(new Lead(
                in(EventRows.OCCASION_NUMBER, found.numbers()), Optional.of(found.events()), Optional.of(each), rest));
    }

    private Optional<Lead> leadToMany(Filter f, Numbers numbers, Condition rest, int most) {
        var found = dsl.select(DSL.count(), DSL.sum(EventRows.OCCASION_EVENTS).cast(Long.class))
                .from(EventRows.OCCASION)
                .where(dictionary(f))
                .fetchSingle();
        return found.value1() > most
                ? Optional.empty()
                : Optional.of(new Lead(
                        in(EventRows.OCCASION_NUMBER, numbers),
                        Optional.of(found.value2()),
                        Optional.of(numbers.many()),
                        rest));
    }

    /**
     * Occasions that a filter lets pass.
     *
     * @param events how many there are of them, where the occasions are few
     */
    private record Occasions(Numbers numbers, long events) {}

    /** Looked up once, however often it is asked for. */
    private Occasions occasions(Filter f) {
        return looked.computeIfAbsent(f, this::look);
    }

    private Occasions look(Filter f) {
        var found = dsl.select(EventRows.OCCASION_ID, EventRows.OCCASION_EVENTS)
                .from(EventRows.OCCASION)
                .where(dictionary(f))
                .limit(FEW + 1)
                .fetch();
        if (found.size() > FEW) {
            return new Occasions(new Numbers(null, ids(dictionary(f))), 0);
        }
        long events = 0;
        for (var occasion : found) {
            events += occasion.value2();
        }
        return new Occasions(new Numbers(found.getValues(0, Long.class), null), events);
    }
}
