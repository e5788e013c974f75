package org.custodia.practice.place;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.Timetable;
import org.custodia.core.site.DoorId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class InstallationTest {
    private static final Instant TODAY = Instant.parse("2026-11-24T14:20:00Z");

    @TempDir
    Path directory;

    private final Installation installation = Installation.sternwick();
    private final Place place = new Place(installation);
    private final People people = new People(installation, 42, TODAY);
    private final SiteRules rules = new SiteRules(installation);

    @Test
    void the_place_has_its_size_and_its_odd_doors() {
        assertThat(place.doors().stream().filter(d -> d.building().id().equals("harbour")))
                .hasSizeBetween(25, 28);
        assertThat(place.doors().stream().filter(d -> d.building().id().equals("northgate")))
                .hasSize(12);
        assertThat(place.doors().stream().filter(d -> d.building().id().equals("yard")))
                .hasSize(10);
        assertThat(place.cameras().size()).isBetween(40, 62);
        assertThat(place.doors().stream().filter(d -> d.views().isEmpty())).hasSize(2);
        assertThat(place.doors().stream().filter(d -> !d.contact())).hasSize(1);
        assertThat(place.doors().stream().filter(d -> d.code().isPresent())).hasSize(1);
        assertThat(place.doors().stream().filter(PracticeDoor::turnstile)).hasSize(1);
        assertThat(place.doors().stream().filter(PracticeDoor::twoPersons)).hasSize(1);
        assertThat(place.building("northgate").zone())
                .isNotEqualTo(place.building("harbour").zone());
        assertThatThrownBy(() -> place.door("nowhere")).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void every_room_can_be_reached_from_outdoors_and_left_again() {
        for (PracticeDoor door : place.doors()) {
            String outdoors = door.building().outdoors();
            List<Place.Step> in = place.way(outdoors, door.inside(), d -> true);
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
        for (Place.Step step : place.way("Quay", "Map store", d -> true)) {
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
        assertThat(new People(installation, 42, TODAY).all()).isEqualTo(all);
        assertThat(people.byBadge("31907").orElseThrow().until())
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
            String outdoors = place.building(p.home()).outdoors();
            assertThat(place.way(outdoors, p.base(), d -> d.opensToPublic() || rules.opens(p, d)))
                    .as("%s to %s", p.name(), p.base())
                    .isNotEmpty();
        }
    }

    @Test
    void what_does_not_fit_together_is_named() throws IOException {
        String text = Files.readString(Path.of("src/main/resources/org/custodia/practice/place/sternwick.json"));
        Path file = Files.writeString(
                directory.resolve("installation.json"),
                text.replace("\"watched\": [\"staff-lobby\"", "\"watched\": [\"cellar\"")
                        .replace("\"timetable\": \"reading\"", "\"timetable\": \"sleeping\"")
                        .replaceFirst("\"id\": \"shop-store\"", "\"id\": \"shop\""));
        assertThatThrownBy(() -> Installation.read(file))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("there is no door cellar, which what is watched names")
                .hasMessageContaining("there is no timetable sleeping, which level hh-readers names")
                .hasMessageContaining("the door shop is there twice");
        Files.writeString(file, "{\"name\":");
        assertThatThrownBy(() -> Installation.read(file)).hasMessageContaining("it is not JSON");
        assertThatThrownBy(() -> Installation.read(directory.resolve("none"))).hasMessageContaining("cannot be read");
    }
}
