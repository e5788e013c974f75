package org.custodia.video;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.evidence.Glimpse;
import org.custodia.core.evidence.Peeks;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.site.Camera;
import org.custodia.core.site.SystemId;

/** Asks recorders for small stills and reduces them to what evidence needs. Each question waits on the thread that asks. */
public final class Glimpses implements Peeks {
    /** Five pixels for each cell. */
    private static final int WIDTH = 5 * Glimpse.COLUMNS;

    private final Function<SystemId, Optional<RecorderLink>> recorders;

    public Glimpses(Function<SystemId, Optional<RecorderLink>> recorders) {
        this.recorders = recorders;
    }

    @Override
    public Glimpse at(Camera camera, Instant instant) throws IOException {
        RecorderLink link = recorders
                .apply(camera.recorder())
                .orElseThrow(
                        () -> new NoPictureException(RecorderNotConnectedException.notConnected(camera.recorder())));
        RecorderLink.Still still = link.still(camera.id(), instant, WIDTH);
        BufferedImage image;
        try {
            image = Stills.decode(still.jpeg());
        } catch (UncheckedIOException e) {
            throw e.getCause();
        }
        int[] rgb = image.getRGB(0, 0, image.getWidth(), image.getHeight(), null, 0, image.getWidth());
        try {
            return Glimpse.of(still.at(), rgb, image.getWidth(), image.getHeight());
        } catch (IllegalArgumentException e) {
            throw new IOException("a still that is too small to compare", e);
        }
    }
}
