package org.custodia.core.event;

import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;

/**
 * A property of events that one can ask for and count by.
 *
 * @param <T> what its values are
 */
public final class EventField<T> {
    public static final EventField<SystemId> SYSTEM =
            new EventField<>("system", e -> Optional.of(e.key().system()), SystemId::value, SystemId::new);
    public static final EventField<EventKind> KIND =
            new EventField<>("kind", e -> Optional.of(e.kind()), EventKind::id, Kinds::of);
    public static final EventField<String> REASON = words("reason", Event::reason);
    public static final EventField<String> CODE = words("code", Event::code);
    public static final EventField<DoorId> DOOR = new EventField<>("door", Event::door, DoorId::value, DoorId::new);
    public static final EventField<ControllerId> CONTROLLER =
            new EventField<>("controller", Event::controller, ControllerId::value, ControllerId::new);
    public static final EventField<ReaderId> READER =
            new EventField<>("reader", Event::reader, ReaderId::value, ReaderId::new);
    public static final EventField<Side> SIDE = new EventField<>("side", Event::side, Side::name, Side::valueOf);
    public static final EventField<PersonId> PERSON =
            new EventField<>("person", Event::person, PersonId::value, PersonId::new);
    public static final EventField<String> CREDENTIAL = words("credential", Event::credential);
    public static final EventField<String> OPERATOR = words("operator", Event::operator);
    public static final EventField<String> CAUSE = words("cause", Event::cause);

    /** All of them. */
    public static final List<EventField<?>> ALL =
            List.of(SYSTEM, KIND, REASON, CODE, DOOR, CONTROLLER, READER, SIDE, PERSON, CREDENTIAL, OPERATOR, CAUSE);

    private final String name;
    private final Function<Event, Optional<T>> of;
    private final Function<T, String> text;
    private final Function<String, T> value;

    private EventField(
            String name, Function<Event, Optional<T>> of, Function<T, String> text, Function<String, T> value) {
        this.name = name;
        this.of = of;
        this.text = text;
        this.value = value;
    }

    private static EventField<String> words(String name, Function<Event, Optional<String>> of) {
        return new EventField<>(name, of, s -> s, s -> s);
    }

    /** Its name, in small letters. */
    public String name() {
        return name;
    }

    /** What an event has in it; nothing where it has none. */
    public Optional<T> of(Event event) {
        return of.apply(event);
    }

    /** A value as text, and no two the same. */
    public String text(T of) {
        return text.apply(of);
    }

    /** The value that {@link #text} wrote. */
    public T value(String of) {
        return value.apply(of);
    }

    @Override
    public String toString() {
        return name;
    }
}
