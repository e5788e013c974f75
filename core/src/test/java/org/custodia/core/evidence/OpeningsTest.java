package org.custodia.core.evidence;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;
import org.junit.jupiter.api.Test;

/** When doors rest, so that pictures show what a camera usually shows. */
class OpeningsTest {
    /** Half a door a second opens somewhere; between two openings there still are moments at which none is open. */
    @Test
    void of_many_doors_none_is_open_at_what_is_chosen_as_quiet() {
        SimulatedPlace place = new SimulatedPlace(21);
        for (int i = 0; i < 60; i++) {
            place.door("door " + i);
        }
        place.opensAtRandom(30, 7_200);
        SiteModel sites = place.sites();
        Openings openings = new Openings(place.log);
        Instant to = SimulatedPlace.END;
        List<Openings.Span> all = openings.latest(sites.doors(), to.minus(Duration.ofDays(1)), to).values().stream()
                .flatMap(List::stream)
                .toList();
        List<Instant> quiet = openings.quiet(sites.doors().iterator().next(), sites, to.minusSeconds(300), 8);
        assertThat(quiet).hasSize(8).allSatisfy(at -> assertThat(all)
                .noneMatch(
                        s -> s.opened().isBefore(at.plus(Film.AT)) && s.closed().isAfter(at.minus(Film.BEFORE))));
        for (int i = 1; i < quiet.size(); i++) {
            assertThat(Duration.between(quiet.get(i - 1), quiet.get(i)).abs()).isGreaterThan(Duration.ofSeconds(20));
        }
    }

    /** Events from before the searched hour count as well. */
    @Test
    void a_door_that_opened_just_before_the_hour_is_open_at_its_beginning() {
        SimulatedPlace place = new SimulatedPlace(22);
        DoorId id = place.door("door");
        place.opens(id, 4_000, Side.ENTRY);
        Door door = place.sites().door(id).orElseThrow();
        Instant opened = SimulatedPlace.END.minusSeconds(4_000);
        List<Instant> quiet = new Openings(place.log)
                .quiet(door, place.sites(), opened.plusMillis(700).plus(Duration.ofHours(1)), 200);
        assertThat(quiet.subList(0, 50)).noneMatch(at -> at.isBefore(opened.plusSeconds(4)));
    }
}
