package org.custodia.video;

import java.io.IOException;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;

/** There is no picture; it says why. */
public class NoPictureException extends IOException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;

    public NoPictureException(Saying saying) {
        super(saying.text());
        this.saying = saying;
    }

    @Override
    public Saying saying() {
        return saying;
    }
}
