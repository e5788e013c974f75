package org.custodia.desktop.watch;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.ZoneId;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class DoorGroupsTest {
    private static Door door(String site, String level, String name) {
        return new Door(
                new DoorId("tidewater/" + site + level + name),
                new SystemId("tidewater"),
                new ControllerId("tidewater/c5"),
                name,
                new SiteId(site),
                level,
                "A",
                "B",
                Duration.ofSeconds(60),
                Set.of());
    }

    private static List<String> groups(Door... doors) {
        SiteModel sites = new SiteModel(
                List.of(
                        new Site(new SiteId("harbour"), "Harbour House", ZoneId.of("UTC")),
                        new Site(new SiteId("annexe"), "annexe", ZoneId.of("UTC"))),
                List.of(doors),
                List.of(),
                List.of());
        return DoorGroups.of(sites, d -> !d.name().equals("Hidden")).stream()
                .flatMap(s -> s.levels().stream()
                        .flatMap(l -> l.doors().stream().map(d -> s.name() + " / " + l.name() + " / " + d.name())))
                .toList();
    }

    @Test
    void sites_levels_and_doors_stand_where_somebody_would_look_for_them() {
        assertThat(groups(
                        door("harbour", "10", "Roof"),
                        door("harbour", "2", "Store 10"),
                        door("harbour", "2", "store 2"),
                        door("harbour", "mezzanine", "Gallery"),
                        door("harbour", "-1", "Plant room"),
                        door("harbour", "2", "Hidden"),
                        door("annexe", "", "Gate"),
                        door("nowhere", "0", "Lost")))
                .containsExactly(
                        "annexe / Level not named / Gate",
                        "Harbour House / Level -1 / Plant room",
                        "Harbour House / Level 2 / store 2",
                        "Harbour House / Level 2 / Store 10",
                        "Harbour House / Level 10 / Roof",
                        "Harbour House / Level mezzanine / Gallery",
                        "No site / Level 0 / Lost");
    }

    @Test
    void doors_of_one_name_are_all_there() {
        assertThat(groups(door("harbour", "0", "Door"), door("harbour", "1", "Door")))
                .hasSize(2);
    }

    /** Otherwise sorting throws, now and then. */
    @Test
    void the_orders_contradict_themselves_nowhere() {
        List<String> odd = Stream.of(
                        "",
                        "-1",
                        "0",
                        "00",
                        "1",
                        "01",
                        "2",
                        "10",
                        "a",
                        "A",
                        "a1",
                        "a01",
                        "a10",
                        "-",
                        "--1",
                        "１",
                        "99999999999999999999",
                        "é",
                        "e",
                        "\u0000",
                        "1a",
                        "1 a",
                        "قاعة",
                        "館")
                .toList();
        for (var order : List.of(DoorGroups.NATURAL, DoorGroups.BY_LEVEL)) {
            for (String a : odd) {
                assertThat(order.compare(a, a)).isZero();
                for (String b : odd) {
                    int ab = Integer.signum(order.compare(a, b));
                    assertThat(ab).as("%s and %s", a, b).isEqualTo(-Integer.signum(order.compare(b, a)));
                    assertThat(ab == 0).as("%s and %s", a, b).isEqualTo(a.equals(b));
                    for (String c : odd) {
                        if (ab <= 0 && order.compare(b, c) <= 0) {
                            assertThat(order.compare(a, c))
                                    .as("%s, %s, %s", a, b, c)
                                    .isLessThanOrEqualTo(0);
                        }
                    }
                }
            }
        }
    }
}
