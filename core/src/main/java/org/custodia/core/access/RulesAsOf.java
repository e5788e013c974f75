package org.custodia.core.access;

import java.time.Instant;
import org.custodia.core.site.SystemId;

/** The rules of a system as they were. */
@FunctionalInterface
public interface RulesAsOf {
    /**
     * What held at an instant, as far as was known at another; nothing where the system's registers had not been read by then.
     *
     * @param known what was recorded later is left out
     * @return the rules, with how sure it is that they held then: {@link OnFile.Standing#AS_READ_LATER} where they were read
     *     for the first time later
     */
    OnFile<AccessRules> at(SystemId system, Instant instant, Instant known);

    /** What held at an instant, by all that is known now. */
    default OnFile<AccessRules> at(SystemId system, Instant instant) {
        return at(system, instant, Instant.MAX);
    }
}
