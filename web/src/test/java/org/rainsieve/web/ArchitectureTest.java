package org.rainsieve.web;

import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.base.DescribedPredicate;
import com.tngtech.archunit.core.domain.AccessTarget;
import com.tngtech.archunit.core.domain.JavaAccess;
import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchCondition;
import com.tngtech.archunit.lang.ArchRule;
import com.tngtech.archunit.lang.ConditionEvents;
import com.tngtech.archunit.lang.SimpleConditionEvent;
import com.tngtech.archunit.lang.syntax.ArchRuleDefinition;
import java.io.OutputStream;
import java.util.Set;

@AnalyzeClasses(packages = "org.rainsieve.web", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {
    @ArchTest
    static final ArchRule noCycles =
            slices().matching("org.rainsieve.web.(*)..").should().beFreeOfCycles();

    /** Features talk through services: a repository is used inside its own package only. */
    @ArchTest
    static final ArchRule repositoriesStayAtHome = ArchRuleDefinition.classes()
            .that(new DescribedPredicate<JavaClass>("are repositories") {
                @Override
                public boolean test(JavaClass input) {
                    return input.getSimpleName().endsWith("Repository");
                }
            })
            .should(new ArchCondition<>("be used in their own package only") {
                @Override
                public void check(JavaClass repository, ConditionEvents events) {
                    repository.getDirectDependenciesToSelf().stream()
                            .filter(use ->
                                    !use.getOriginClass().getPackageName().equals(repository.getPackageName()))
                            .forEach(
                                    use -> events.add(SimpleConditionEvent.violated(repository, use.getDescription())));
                }
            });

    /** What writes, names, moves or deletes files; copying into a stream only reads. */
    private static final Set<String> CHANGING = Set.of(
            "copy",
            "createDirectories",
            "createDirectory",
            "createFile",
            "createLink",
            "createSymbolicLink",
            "createTempDirectory",
            "createTempFile",
            "delete",
            "deleteIfExists",
            "move",
            "newByteChannel",
            "newOutputStream",
            "setLastModifiedTime",
            "write",
            "writeString");

    private static boolean changesFiles(JavaAccess<?> call) {
        String owner = call.getTargetOwner().getFullName();
        String name = call.getName();
        if (owner.equals("java.nio.file.Files") && CHANGING.contains(name)) {
            return !(call.getTarget() instanceof AccessTarget.CodeUnitAccessTarget target
                    && name.equals("copy")
                    && target.getRawParameterTypes().get(1).isEquivalentTo(OutputStream.class));
        }
        return owner.equals("java.nio.channels.FileChannel") && name.equals("open")
                || owner.equals("java.io.FileOutputStream")
                || owner.equals("java.io.FileWriter")
                || owner.equals("java.io.File")
                        && Set.of("delete", "renameTo", "mkdir", "mkdirs").contains(name);
    }

    /** Originals are safe because everything that is done to files can be seen in one package; see docs/files.md. */
    @ArchTest
    static final ArchRule filesAreChangedInOnePackage = ArchRuleDefinition.noClasses()
            .that()
            .resideOutsideOfPackage("org.rainsieve.web.files")
            .should()
            .accessTargetWhere(DescribedPredicate.describe("files are changed", ArchitectureTest::changesFiles));
}
