package org.custodia.core.access;

import java.time.Instant;
import org.custodia.core.site.SystemId;

/** The rules of a system as they were. */
@FunctionalInterface
public interface RulesAsOf {
    /**
     * What held at an instant; nothing where the system's registers have not been read.
     *
     * @return the rules, with how sure it is that they held then: {@link OnFile.Standing#AS_READ_LATER} where they were read
     *     for the first time later
     */
    OnFile<AccessRules> at(SystemId system, Instant instant);
}
