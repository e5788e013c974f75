package org.custodia.video;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.site.SystemId;

/** No link to the recorder is set up. */
public class RecorderNotConnectedException extends IllegalStateException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;

    RecorderNotConnectedException(SystemId recorder) {
        this(notConnected(recorder));
    }

    private RecorderNotConnectedException(Saying saying) {
        super(saying.text());
        this.saying = saying;
    }

    static Saying notConnected(SystemId recorder) {
        return Saying.of("picture.recorder-not-connected", recorder.value());
    }

    @Override
    public Saying saying() {
        return saying;
    }
}
