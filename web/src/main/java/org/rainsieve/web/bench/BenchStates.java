package org.rainsieve.web.bench;

import java.util.Map;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.InForce;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Component;

/** Gathers what is in force on a frame for its bench. */
@Component
@ConditionalOnWebApplication
class BenchStates {
    private final BookService book;
    private final LensService lenses;
    private final FrameChanges changes;
    private final ChangeOrder order;

    BenchStates(BookService book, LensService lenses, FrameChanges changes, ChangeOrder order) {
        this.book = book;
        this.lenses = lenses;
        this.changes = changes;
        this.order = order;
    }

    /** @param said what was just done; empty for nothing */
    BenchState of(FrameForWork frame, String said) {
        BookService.PageInForce inForce = book.page(frame.camera());
        Page page = inForce.page();
        FrameSteps steps = ShootService.steps(frame.steps());
        InForce all = new InForce(book);
        ChangeOrder.Open open = order.open(frame);
        DenoiseSettings bookDenoise = page.at(frame.ei());
        SharpenSettings bookSharpen = page.sharpenAt(frame.ei());
        return new BenchState(
                inForce.version(),
                frame.steps() == null ? 0 : frame.steps().hashCode(),
                steps.followsRung(),
                StepsForm.fields(
                        all.settings(frame.camera(), frame.ei(), steps),
                        all.sharpen(frame.camera(), frame.ei(), steps),
                        lenses.choice(frame.camera(), frame.reportedLens()),
                        steps.crop()),
                StepsForm.fields(bookDenoise, bookSharpen),
                Map.of(
                        "denoise", PageDifference.inWords(bookDenoise),
                        "sharpen", PageDifference.inWords(bookSharpen)),
                changes.targets(frame, page),
                open.undo(),
                open.redo(),
                said);
    }
}
