package org.rainsieve;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;

@AnalyzeClasses(packages = "org.rainsieve", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {
    @ArchTest
    static final ArchRule coreKnowsNoInterface = noClasses()
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "org.springframework..",
                    "jakarta..",
                    "java.sql..",
                    "javax.sql..",
                    "javax.swing..",
                    "org.rainsieve.web..");

    @ArchTest
    static final ArchRule noCycles =
            slices().matching("org.rainsieve.(*)..").should().beFreeOfCycles();

    @ArchTest
    static final ArchRule filesKnowNoDenoise = noClasses()
            .that()
            .resideInAPackage("..dng..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("..denoise..", "..pipeline..");
}
