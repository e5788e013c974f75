package org.custodia.core.command;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** A command was given to a door that is not there or cannot do it; it says which. */
public class NoSuchCommandException extends SayingException {
    private static final long serialVersionUID = 1L;

    NoSuchCommandException(Saying saying) {
        super(saying);
    }
}
