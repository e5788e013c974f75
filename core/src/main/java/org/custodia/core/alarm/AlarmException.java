package org.custodia.core.alarm;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** Something that cannot be done with an alarm, and why. */
public final class AlarmException extends SayingException {
    private static final long serialVersionUID = 1L;

    public AlarmException(Saying saying) {
        super(saying);
    }
}
