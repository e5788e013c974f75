package org.custodia.practice.picture;

import static org.assertj.core.api.Assertions.assertThat;

import java.awt.image.BufferedImage;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import org.custodia.core.site.Crop;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.People;
import org.custodia.practice.place.Place;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.timeline.Act;
import org.custodia.practice.timeline.Incidents;
import org.custodia.practice.timeline.Journal;
import org.custodia.practice.timeline.Timeline;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The parts of pictures that stand for people hold their heads. */
class FacesTest {
    private static final Instant NIGHT = Instant.parse("2026-11-24T02:00:00Z");
    private static final String BADGE = "20144";

    @TempDir
    Path directory;

    private final Place place = new Place(Installation.sternwick());
    private final People people = new People(Installation.sternwick(), 7, NIGHT);
    private Timeline timeline;
    private CameraPictures pictures;

    @BeforeEach
    void open() {
        timeline = new Timeline(
                7,
                LocalDate.of(2026, 11, 24),
                NIGHT,
                Installation.sternwick(),
                Incidents.none(),
                new Journal(directory.resolve("journal")));
        timeline.advanceTo(NIGHT);
        pictures = new CameraPictures(timeline.scenes());
    }

    @AfterEach
    void close() {
        timeline.close();
    }

    private Look look() {
        return people.all().stream()
                .filter(p -> p.badges().stream().anyMatch(b -> b.number().equals(BADGE)))
                .findFirst()
                .orElseThrow()
                .look();
    }

    private BufferedImage seen(String camera, Instant at) {
        BufferedImage image = CameraPictures.canvas();
        PracticeCamera of = place.camera(camera).orElseThrow();
        pictures.draw(of, at.toEpochMilli(), at.toEpochMilli(), image);
        return image;
    }

    /** How much of a part of a picture is skin of somebody's colour, in shares of that part. */
    private static double skin(BufferedImage image, Crop part, Look look) {
        int left = (int) (part.x() * image.getWidth());
        int top = (int) (part.y() * image.getHeight());
        int width = (int) (part.width() * image.getWidth());
        int height = (int) (part.height() * image.getHeight());
        int found = 0;
        for (int y = top; y < top + height; y++) {
            for (int x = left; x < left + width; x++) {
                found += (image.getRGB(x, y) & 0xffffff) == (look.skin().getRGB() & 0xffffff) ? 1 : 0;
            }
        }
        return found / (double) (width * height);
    }

    private void presents(boolean outwards) {
        timeline.act(Act.of("present").door("roof-store").badge(BADGE, null, null, outwards), NIGHT);
        timeline.advanceTo(NIGHT.plusSeconds(20));
    }

    @Test
    void the_head_of_who_presents_a_badge_is_in_its_part_at_that_instant() {
        presents(false);
        Crop face = CameraPictures.face(false);
        assertThat(skin(seen("roof-store-outside", NIGHT.plusMillis(100)), face, look()))
                .isGreaterThan(0.03);
        assertThat(skin(seen("roof-store-outside", NIGHT.plusSeconds(19)), face, look()))
                .isLessThan(0.01);
    }

    @Test
    void the_head_of_who_comes_out_is_in_its_part_some_seconds_later() {
        presents(true);
        Duration after = CameraPictures.COMING_OUT_AFTER;
        assertThat(skin(seen("roof-store-outside", NIGHT.plus(after)), CameraPictures.COMING_OUT, look()))
                .isGreaterThan(0.03);
        assertThat(skin(seen("roof-store-outside", NIGHT), CameraPictures.COMING_OUT, look()))
                .isLessThan(0.01);
    }
}
