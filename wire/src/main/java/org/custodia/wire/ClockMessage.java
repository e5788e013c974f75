package org.custodia.wire;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.time.Instant;

/**
 * Answer to {@code GET time} and {@code POST time/sync} of any system.
 *
 * @param time what its clock shows
 * @param source where it takes the time from, for people; absent where it does not say
 * @param canSync whether it sets its clock when it is asked to by {@code POST time/sync}
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record ClockMessage(Instant time, String source, Boolean canSync) {
    /** From a system that says no more than the time. */
    public ClockMessage(Instant time) {
        this(time, null, null);
    }
}
