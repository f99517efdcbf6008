package org.rainsieve.web.rendering;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import org.junit.jupiter.api.Test;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.frame.CancelledException;
import org.rainsieve.frame.Region;
import org.rainsieve.pipeline.Cancel;
import tools.jackson.databind.json.JsonMapper;

/** What pages ask workers: as it is sent, and whether it is wanted still. */
class QuestionTest {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    /** Every kind of question arrives as it was asked; what is no question does not. */
    @Test
    void questionsArriveAsTheyWereAsked() {
        Question.Subject subject = new Question.Subject(7, "{\"schema\":6,\"words\":\"’ & ü =\"}");
        Question.Subject over = new Question.Subject(8, "{}", 6000, 4000);
        Question.Asker asker = new Question.Asker(91, 4);
        Region region = new Region(12, 3, 640, 480);
        ViewLook look = new ViewLook(1.5, 20, -10, 5, true, 0.5, -0.25);
        List<Question> all = List.of(
                new Question.OfFrame(over, Question.Which.TAKEN, region, look, asker),
                new Question.FrameReduced(subject, look, asker),
                new Question.OfReturn(3, Question.Which.BEFORE, region, look),
                new Question.ReturnReduced(3, Question.Which.AFTER, look),
                new Question.Spots(subject),
                new Question.Figures(subject, region, asker),
                new Question.Histogram(subject, region, asker),
                new Question.Places(subject, List.of(1.25, 3.0)),
                new Question.Strength(subject, 1, 0, region),
                new Question.Found(subject),
                new Question.SidecarWhite(7),
                new Question.Made(3));
        assertThat(all.stream().map(Object::getClass))
                .as("one of each kind")
                .containsExactlyInAnyOrder(Question.class.getPermittedSubclasses());
        for (Question question : all) {
            assertThat(JSON.readValue(JSON.writeValueAsString(question), Question.class))
                    .isEqualTo(question);
        }
        assertThatThrownBy(() -> JSON.readValue("{\"ask\":\"everything\"}", Question.class))
                .isInstanceOf(RuntimeException.class);
    }

    @Test
    void whatIsNotWantedAnyMoreIsGivenUp() {
        Turns turns = new Turns();
        Cancel first = turns.stillAsked(new Question.Asker(1, 1), "AFTER");
        Cancel other = turns.stillAsked(new Question.Asker(2, 1), "AFTER");
        Cancel figures = turns.stillAsked(new Question.Asker(1, 1), "figures");
        Cancel nobody = turns.stillAsked(Question.Asker.NOBODY, "AFTER");
        Cancel second = turns.stillAsked(new Question.Asker(1, 2), "AFTER");
        assertThatThrownBy(first::check).isInstanceOf(CancelledException.class);
        assertThatThrownBy(() -> turns.stillAsked(new Question.Asker(1, 1), "AFTER"))
                .as("came late")
                .isInstanceOf(CancelledException.class);
        second.check();
        figures.check();
        turns.left(1);
        assertThatThrownBy(second::check).isInstanceOf(CancelledException.class);
        assertThatThrownBy(figures::check).isInstanceOf(CancelledException.class);
        other.check();
        nobody.check();
    }
}
