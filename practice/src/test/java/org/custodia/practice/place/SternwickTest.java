package org.custodia.practice.place;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.Timetable;
import org.custodia.core.site.DoorId;
import org.junit.jupiter.api.Test;

class SternwickTest {
    private static final Instant TODAY = Instant.parse("2026-11-24T14:20:00Z");

    private final Sternwick place = new Sternwick();
    private final People people = new People(42, TODAY);
    private final SiteRules rules = new SiteRules(place);

    @Test
    void the_place_has_its_size_and_its_odd_doors() {
        assertThat(place.doors().stream().filter(d -> d.building() == Building.HARBOUR))
                .hasSizeBetween(25, 28);
        assertThat(place.doors().stream().filter(d -> d.building() == Building.NORTHGATE))
                .hasSize(12);
        assertThat(place.doors().stream().filter(d -> d.building() == Building.YARD))
                .hasSize(10);
        assertThat(place.cameras().size()).isBetween(40, 62);
        assertThat(place.doors().stream().filter(d -> d.views().equals("-"))).hasSize(2);
        assertThat(place.doors().stream().filter(d -> !d.contact())).hasSize(1);
        assertThat(place.doors().stream().filter(d -> d.code().isPresent())).hasSize(1);
        assertThat(place.doors().stream().filter(PracticeDoor::turnstile)).hasSize(1);
        assertThat(place.doors().stream().filter(PracticeDoor::twoPersons)).hasSize(1);
        assertThat(Building.NORTHGATE.zone()).isNotEqualTo(Building.HARBOUR.zone());
        assertThatThrownBy(() -> place.door("nowhere")).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void every_room_can_be_reached_from_outdoors_and_left_again() {
        for (PracticeDoor door : place.doors()) {
            String outdoors =
                    switch (door.building()) {
                        case HARBOUR -> "Quay";
                        case NORTHGATE -> "Northgate road";
                        case YARD -> "Yard lane";
                    };
            List<Sternwick.Step> in = place.way(outdoors, door.inside(), d -> true);
            assertThat(in).as(door.name()).isNotEmpty();
            assertThat(in.get(in.size() - 1).door().inside()).isEqualTo(door.inside());
            assertThat(place.way(door.inside(), outdoors, d -> false))
                    .as("out of " + door.inside())
                    .isNotEmpty();
        }
        assertThat(place.way("Quay", "Quay", d -> true)).isEmpty();
        assertThat(place.way("Quay", "Vault", d -> !d.id().equals("vault"))).isEmpty();
        assertThat(place.way("Quay", "Dry hall 1", d -> true)).isEmpty();
    }

    @Test
    void a_way_leads_from_room_to_room() {
        String at = "Quay";
        for (Sternwick.Step step : place.way("Quay", "Map store", d -> true)) {
            assertThat(step.inwards() ? step.door().outside() : step.door().inside())
                    .isEqualTo(at);
            at = step.inwards() ? step.door().inside() : step.door().outside();
        }
        assertThat(at).isEqualTo("Map store");
    }

    @Test
    void about_260_people_have_names_badges_and_looks_of_their_own() {
        List<PracticePerson> all = people.all();
        assertThat(all.size()).isBetween(250, 280);
        assertThat(all.stream().map(PracticePerson::name).collect(Collectors.toSet()))
                .hasSameSizeAs(all);
        assertThat(all.stream().map(PracticePerson::badge).collect(Collectors.toSet()))
                .hasSameSizeAs(all);
        Set<Look> looks = new HashSet<>();
        all.forEach(p -> looks.add(p.look()));
        assertThat(looks).hasSameSizeAs(all);
        assertThat(new People(42, TODAY).all()).isEqualTo(all);
        assertThat(people.named("Odo Castellane").until())
                .hasValueSatisfying(t -> assertThat(t).isBefore(TODAY));
        assertThat(people.byBadge("20417").orElseThrow().name()).isEqualTo("Juniper Thistlewood");
        assertThat(people.byId("p999")).isEmpty();
    }

    @Test
    void levels_name_doors_and_timetables_that_exist_and_lead_people_to_their_work() {
        Set<String> doors = place.doors().stream().map(PracticeDoor::id).collect(Collectors.toSet());
        Set<String> tables = rules.timetables().stream().map(Timetable::id).collect(Collectors.toSet());
        for (AccessLevel level : rules.levels()) {
            assertThat(level.doors().keySet().stream().map(DoorId::value))
                    .as(level.name())
                    .isSubsetOf(doors);
            assertThat(level.doors().values()).as(level.name()).isSubsetOf(tables);
        }
        for (PracticePerson p : people.all()) {
            String outdoors =
                    switch (p.home()) {
                        case HARBOUR -> "Quay";
                        case NORTHGATE -> "Northgate road";
                        case YARD -> "Yard lane";
                    };
            assertThat(place.way(outdoors, p.base(), d -> d.opensToPublic() || rules.opens(p, d)))
                    .as("%s to %s", p.name(), p.base())
                    .isNotEmpty();
        }
    }
}
