package dev.zeitkammer;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.importer.ImportOption.DoNotIncludeTests;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;

/** The house: who may know whom. */
@AnalyzeClasses(packages = "dev.zeitkammer", importOptions = DoNotIncludeTests.class)
class ArchitectureTest {

    @ArchTest
    static final ArchRule databasesAreKnownToTheEngineOnly = noClasses()
            .that()
            .resideOutsideOfPackage("..engine..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "java.sql..",
                    "javax.sql..",
                    "org.duckdb..",
                    "org.postgresql..",
                    "org.apache.kyuubi..",
                    "org.apache.hive..",
                    "org.mariadb..");

    @ArchTest
    static final ArchRule anEngineIsNamedInOnePlaceOnly = noClasses()
            .that()
            .resideOutsideOfPackages("..engine.duckdb..", "..engine.postgres..", "..engine.spark..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("..engine.duckdb..", "..engine.postgres..", "..engine.spark..");

    @ArchTest
    static final ArchRule enginesDoNotKnowEachOther =
            slices().matching("dev.zeitkammer.engine.(*)..").should().notDependOnEachOther();

    @ArchTest
    static final ArchRule theCoreDoesNotPrintOrExit = noClasses()
            .should()
            .accessField(System.class, "out")
            .orShould()
            .accessField(System.class, "err")
            .orShould()
            .callMethod(System.class, "exit", int.class);

    @ArchTest
    static final ArchRule rulesDoNotKnowHowLoadsAreRun = noClasses()
            .that()
            .resideInAnyPackage("..dimension..", "..fact..", "..calendar..", "..staging..", "..definition..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("..load..", "..books..");

    @ArchTest
    static final ArchRule definitionsDoNotKnowHowTheyAreRead = noClasses()
            .that()
            .resideInAPackage("dev.zeitkammer.definition")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("..definition.reading..", "..definition.check..", "..definition.form..");

    @ArchTest
    static final ArchRule packagesHaveNoCycles =
            slices().matching("dev.zeitkammer.(*)..").should().beFreeOfCycles();
}
