package org.custodia.app;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;

import com.tngtech.archunit.core.importer.ImportOption.DoNotIncludeTests;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;
import com.tngtech.archunit.library.dependencies.SlicesRuleDefinition;

@AnalyzeClasses(packages = "org.custodia", importOptions = DoNotIncludeTests.class)
class ArchitectureTest {
    @ArchTest
    static final ArchRule CORE_STANDS_ALONE = noClasses()
            .that()
            .resideInAPackage("org.custodia.core..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
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
                    "org.custodia.app..");

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
    static final ArchRule CONCEPTS_DO_NOT_GO_ROUND_IN_CIRCLES = SlicesRuleDefinition.slices()
            .matching("org.custodia.practice.(*)..")
            .should()
            .beFreeOfCycles();
}
