package org.custodia.practice.picture;

import java.util.LinkedHashMap;
import java.util.Map;
import org.custodia.practice.place.Look;

/** Enrolled photos. Drawing one takes longer than serving it, so each is drawn once for all practice sites of a process. */
public final class Portraits {
    /** Somewhat more than there are people at one site. */
    private static final int MOST = 400;

    private static final Map<Look, byte[]> DRAWN = new LinkedHashMap<>();

    private Portraits() {}

    /** A person's enrolled photo as JPEG. Thread-safe. */
    public static byte[] jpeg(Look look) {
        synchronized (DRAWN) {
            byte[] drawn = DRAWN.get(look);
            if (drawn != null) {
                return drawn.clone();
            }
        }
        byte[] fresh = Jpeg.of(CameraPictures.portrait(look));
        synchronized (DRAWN) {
            DRAWN.put(look, fresh);
            if (DRAWN.size() > MOST) {
                DRAWN.remove(DRAWN.keySet().iterator().next());
            }
        }
        return fresh.clone();
    }
}
