package org.custodia.core.operator;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Map;
import java.util.Set;
import org.custodia.core.operator.Actor.Grant;
import org.custodia.core.operator.Actor.Level;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SiteId;
import org.junit.jupiter.api.Test;

class ActorTest {
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final SiteId YARD = new SiteId("yard");

    @Test
    void each_permission_holds_where_it_was_given_and_nowhere_else() {
        for (Permission permission : Permission.values()) {
            Actor here = Actor.with("a", "A", "desk", Set.of(permission), SiteScope.at(HARBOUR));
            for (Permission other : Permission.values()) {
                assertThat(here.may(other, HARBOUR)).isEqualTo(other == permission);
                assertThat(here.mayLook(other, HARBOUR)).isEqualTo(other == permission);
                assertThat(here.may(other, YARD)).isFalse();
                assertThat(here.mayLook(other, YARD)).isFalse();
                assertThat(here.mayEverywhere(other)).isFalse();
            }
            assertThatCode(() -> here.require(permission, HARBOUR)).doesNotThrowAnyException();
            assertThatThrownBy(() -> here.require(permission, YARD))
                    .isInstanceOfSatisfying(NotPermittedException.class, e -> assertThat(e.saying())
                            .isEqualTo(Saying.of("permit.not-here", "A", permission.saying())));
            assertThatThrownBy(() -> here.requireEverywhere(permission)).isInstanceOf(NotPermittedException.class);
            Actor everywhere = Actor.with("b", "B", "desk", Set.of(permission), SiteScope.everywhere());
            assertThat(everywhere.may(permission, YARD)).isTrue();
            assertThatCode(() -> everywhere.requireEverywhere(permission)).doesNotThrowAnyException();
        }
    }

    @Test
    void naming_no_site_means_nowhere() {
        Actor nowhere = Actor.with("a", "A", "desk", Set.of(Permission.values()), SiteScope.nowhere());
        for (Permission permission : Permission.values()) {
            assertThat(nowhere.may(permission, HARBOUR)).isFalse();
            assertThat(nowhere.mayLook(permission, HARBOUR)).isFalse();
            assertThat(nowhere.mayEverywhere(permission)).isFalse();
            assertThat(nowhere.maySomewhere(permission)).isFalse();
        }
        assertThatThrownBy(() -> new SiteScope(true, Set.of(HARBOUR))).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void who_may_look_may_not_change() {
        Actor looker = new Actor(
                "a", "A", "desk", Map.of(Permission.EDIT_PEOPLE, new Grant(SiteScope.everywhere(), Level.LOOK)));
        assertThat(looker.mayLook(Permission.EDIT_PEOPLE, HARBOUR)).isTrue();
        assertThat(looker.may(Permission.EDIT_PEOPLE, HARBOUR)).isFalse();
        assertThat(looker.mayEverywhere(Permission.EDIT_PEOPLE)).isFalse();
        assertThat(looker.maySomewhere(Permission.EDIT_PEOPLE)).isFalse();
        assertThat(looker.mayLookSomewhere(Permission.EDIT_PEOPLE)).isTrue();
        Actor yard = Actor.with("a", "A", "desk", Set.of(Permission.EDIT_PEOPLE), SiteScope.at(YARD));
        assertThat(yard.maySomewhere(Permission.EDIT_PEOPLE)).isTrue();
        assertThatThrownBy(() -> looker.require(Permission.EDIT_PEOPLE, HARBOUR))
                .isInstanceOf(NotPermittedException.class);
    }
}
