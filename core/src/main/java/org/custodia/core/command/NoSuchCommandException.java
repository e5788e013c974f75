package org.custodia.core.command;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;

/** A command was given to a door that is not there or cannot do it; it says which. */
public class NoSuchCommandException extends IllegalArgumentException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;

    NoSuchCommandException(Saying saying) {
        super(saying.text());
        this.saying = saying;
    }

    @Override
    public Saying saying() {
        return saying;
    }
}
