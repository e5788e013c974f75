package org.custodia.app;

import static com.tngtech.archunit.base.DescribedPredicate.not;
import static com.tngtech.archunit.core.domain.JavaCall.Predicates.target;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.assignableTo;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAPackage;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAnyPackage;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.type;
import static com.tngtech.archunit.core.domain.properties.HasName.Predicates.name;
import static com.tngtech.archunit.core.domain.properties.HasOwner.Predicates.With.owner;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;

import com.tngtech.archunit.core.importer.ImportOption.DoNotIncludeTests;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;
import com.tngtech.archunit.library.dependencies.SlicesRuleDefinition;
import java.net.URI;
import javafx.animation.AnimationTimer;
import javafx.animation.FadeTransition;
import javafx.animation.FillTransition;
import javafx.animation.KeyValue;
import javafx.animation.PathTransition;
import javafx.animation.RotateTransition;
import javafx.animation.ScaleTransition;
import javafx.animation.StrokeTransition;
import javafx.animation.TranslateTransition;
import org.custodia.core.access.DecisionExplainer;
import org.custodia.core.access.Verdicts;
import org.custodia.core.command.DoorDesk;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.event.EventIntake;
import org.custodia.core.saying.Says;
import org.custodia.core.workplace.Workplace;
import org.custodia.video.VideoDesk;

@AnalyzeClasses(packages = "org.custodia", importOptions = DoNotIncludeTests.class)
class ArchitectureTest {
    @ArchTest
    static final ArchRule CORE_STANDS_ALONE = noClasses()
            .that()
            .resideInAPackage("org.custodia.core..")
            .should()
            .dependOnClassesThat(resideInAnyPackage(
                            "javafx..",
                            "java.sql..",
                            "java.net..",
                            "java.nio..",
                            "com.fasterxml..",
                            "org.custodia.wire..",
                            "org.custodia.store..",
                            "org.custodia.link..",
                            "org.custodia.video..",
                            "org.custodia.practice..",
                            "org.custodia.desktop..",
                            "org.custodia.app..")
                    // Addresses and encodings are values; nothing is opened with them there.
                    .and(not(type(URI.class)))
                    .and(not(resideInAPackage("java.nio.charset"))));

    /** What an exception's message says is for our logs, in English; people are told what it {@link Says}. */
    @ArchTest
    static final ArchRule MESSAGES_OF_EXCEPTIONS_ARE_NOT_SHOWN = noClasses()
            .that()
            .resideInAPackage("org.custodia.desktop..")
            .should()
            .callMethodWhere(target(name("getMessage")).and(target(owner(assignableTo(Throwable.class)))));

    /** Whoever asks their system for less motion has nothing to be taken away. */
    @ArchTest
    static final ArchRule NOTHING_MOVES_BY_ITSELF = noClasses()
            .that()
            .resideInAPackage("org.custodia.desktop..")
            .should()
            .dependOnClassesThat()
            .belongToAnyOf(
                    FadeTransition.class,
                    TranslateTransition.class,
                    ScaleTransition.class,
                    RotateTransition.class,
                    PathTransition.class,
                    FillTransition.class,
                    StrokeTransition.class,
                    KeyValue.class,
                    AnimationTimer.class);

    @ArchTest
    static final ArchRule NOTHING_BELOW_KNOWS_THE_APP = noClasses()
            .that()
            .resideOutsideOfPackages("org.custodia.app..", "org.custodia.bench..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("org.custodia.app..");

    @ArchTest
    static final ArchRule ONLY_THE_APP_KNOWS_THE_PRACTICE_SITE = noClasses()
            .that()
            .resideInAnyPackage(
                    "org.custodia.desktop..", "org.custodia.link..", "org.custodia.store..", "org.custodia.video..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("org.custodia.practice..");

    @ArchTest
    static final ArchRule VIEWS_NEVER_TALK_TO_LINKS_OR_SQL = noClasses()
            .that()
            .resideInAPackage("org.custodia.desktop..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "org.custodia.link..",
                    "org.custodia.wire..",
                    "org.custodia.store..",
                    "java.sql..",
                    "java.net.http..");

    /** What stands behind the workplace is reached through it, which asks what is permitted. */
    @ArchTest
    static final ArchRule VIEWS_ONLY_SEE_WHAT_IS_PERMITTED = noClasses()
            .that()
            .resideInAPackage("org.custodia.desktop..")
            .should()
            .dependOnClassesThat()
            .belongToAnyOf(
                    Verdicts.class, DoorDesk.class, DecisionExplainer.class, VideoDesk.class, Workplace.Behind.class)
            .orShould()
            .callMethodWhere(target(owner(assignableTo(DoorBoard.class))))
            .orShould()
            .callMethodWhere(target(owner(assignableTo(EventIntake.class))));

    @ArchTest
    static final ArchRule VIDEO_HAS_NO_WIDGETS = noClasses()
            .that()
            .resideInAPackage("org.custodia.video..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("javafx..");

    @ArchTest
    static final ArchRule MODELS_HOLD_NO_NODES = noClasses()
            .that()
            .haveSimpleNameEndingWith("Model")
            .and()
            .resideInAPackage("org.custodia.desktop..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("javafx.scene..");

    @ArchTest
    static final ArchRule CONCEPTS_DO_NOT_GO_ROUND_IN_CIRCLES =
            SlicesRuleDefinition.slices().matching("org.custodia.(**)").should().beFreeOfCycles();
}
