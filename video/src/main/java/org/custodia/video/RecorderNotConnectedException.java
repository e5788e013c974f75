package org.custodia.video;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;
import org.custodia.core.site.SystemId;

/** No link to the recorder is set up. */
public class RecorderNotConnectedException extends SayingException {
    private static final long serialVersionUID = 1L;

    RecorderNotConnectedException(SystemId recorder) {
        super(notConnected(recorder));
    }

    static Saying notConnected(SystemId recorder) {
        return Saying.of("picture.recorder-not-connected", recorder.value());
    }
}
