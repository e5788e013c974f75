package org.custodia.core.event;

import java.util.Collection;
import java.util.List;
import java.util.Set;

/** Which events are asked for: an expression over their fields. {@link #test} says what each part means. */
public sealed interface Filter {
    /** Whether an event is one of those. */
    boolean test(Event event);

    /** How many parts and values it is made of. */
    int size();

    /** Those whose field has one of these values; with no values, none. */
    record Is<T>(EventField<T> field, Set<T> values) implements Filter {
        public Is {
            values = Set.copyOf(values);
        }

        @Override
        public boolean test(Event event) {
            return field.of(event).filter(values::contains).isPresent();
        }

        @Override
        public int size() {
            return 1 + values.size();
        }
    }

    /** Those whose field has any value. */
    record Known(EventField<?> field) implements Filter {
        @Override
        public boolean test(Event event) {
            return field.of(event).isPresent();
        }

        @Override
        public int size() {
            return 1;
        }
    }

    /** Those that came late. */
    record Late() implements Filter {
        @Override
        public boolean test(Event event) {
            return event.late();
        }

        @Override
        public int size() {
            return 1;
        }
    }

    /** Those that all parts let pass; with no parts, every event. */
    record And(List<Filter> parts) implements Filter {
        public And {
            parts = List.copyOf(parts);
        }

        @Override
        public boolean test(Event event) {
            return parts.stream().allMatch(p -> p.test(event));
        }

        @Override
        public int size() {
            return 1 + parts.stream().mapToInt(Filter::size).sum();
        }
    }

    /** Those that any part lets pass; with no parts, none. */
    record Or(List<Filter> parts) implements Filter {
        public Or {
            parts = List.copyOf(parts);
        }

        @Override
        public boolean test(Event event) {
            return parts.stream().anyMatch(p -> p.test(event));
        }

        @Override
        public int size() {
            return 1 + parts.stream().mapToInt(Filter::size).sum();
        }
    }

    /** Those that the part does not let pass. */
    record Not(Filter part) implements Filter {
        @Override
        public boolean test(Event event) {
            return !part.test(event);
        }

        @Override
        public int size() {
            return 1 + part.size();
        }
    }

    /** Every event. */
    static Filter everything() {
        return new And(List.of());
    }

    static <T> Filter is(EventField<T> field, T value) {
        return new Is<>(field, Set.of(value));
    }

    static <T> Filter isOneOf(EventField<T> field, Collection<T> values) {
        return new Is<>(field, Set.copyOf(values));
    }

    static Filter known(EventField<?> field) {
        return new Known(field);
    }

    static Filter late() {
        return new Late();
    }

    static Filter or(Filter... parts) {
        return new Or(List.of(parts));
    }

    static Filter not(Filter part) {
        return new Not(part);
    }

    /** This one and another. */
    default Filter and(Filter other) {
        if (this instanceof And all && all.parts().isEmpty()) {
            return other;
        }
        return other instanceof And all && all.parts().isEmpty() ? this : new And(List.of(this, other));
    }
}
