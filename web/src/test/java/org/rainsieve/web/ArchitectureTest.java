package org.rainsieve.web;

import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.base.DescribedPredicate;
import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchCondition;
import com.tngtech.archunit.lang.ArchRule;
import com.tngtech.archunit.lang.ConditionEvents;
import com.tngtech.archunit.lang.SimpleConditionEvent;
import com.tngtech.archunit.lang.syntax.ArchRuleDefinition;

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
}
