package org.rainsieve;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

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

    /** What everything rests on knows nothing else. */
    @ArchTest
    static final ArchRule primitivesKnowNobody = noClasses()
            .that()
            .resideInAPackage("..primitives..")
            .should()
            .dependOnClassesThat(com.tngtech.archunit.base.DescribedPredicate.describe(
                    "other packages of ours",
                    (com.tngtech.archunit.core.domain.JavaClass of) ->
                            of.getPackageName().startsWith("org.rainsieve")
                                    && !of.getPackageName().endsWith("primitives")));

    private static final String[] FILES = {
        "..file..",
        "..tiff..",
        "..jpeg..",
        "..xmp..",
        "..icc..",
        "..embedded..",
        "..opcode..",
        "..source..",
        "..raw..",
        "..rendered..",
        "..dng..",
        "..opening.."
    };

    @ArchTest
    static final ArchRule filesKnowNoDenoise = noClasses()
            .that()
            .resideInAnyPackage(FILES)
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("..denoise..", "..sharpen..", "..enlarge..", "..mask..", "..pipeline..", "..book..");

    /** DNG is one kind of file among others: none of them goes through it. */
    @ArchTest
    static final ArchRule otherFilesKnowNoDng = noClasses()
            .that()
            .resideInAnyPackage(
                    "..file..",
                    "..tiff..",
                    "..jpeg..",
                    "..xmp..",
                    "..icc..",
                    "..embedded..",
                    "..source..",
                    "..raw..",
                    "..rendered..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("org.rainsieve.dng..");

    /** Laws of noise know no places on a sensor. */
    @ArchTest
    static final ArchRule lawsKnowNoDefects = noClasses()
            .that()
            .resideInAPackage("..noise..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("..defect..");

    /** Every package says what it is for, in every module. */
    @Test
    void packagesSayWhatTheyAreFor() throws IOException {
        try (Stream<Path> all = Files.walk(Path.of(".."))) {
            assertThat(all.filter(path -> path.toString().contains("/src/main/java/")
                                    && path.toString().endsWith(".java"))
                            .map(Path::getParent)
                            .distinct())
                    .isNotEmpty()
                    .allMatch(folder -> Files.exists(folder.resolve("package-info.java")));
        }
    }
}
