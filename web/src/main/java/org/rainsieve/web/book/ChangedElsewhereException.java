package org.rainsieve.web.book;

import java.util.List;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;

/** A page was changed elsewhere in the same place; nothing was saved. Holds what is needed to settle it. */
final class ChangedElsewhereException extends RuntimeException {
    private static final long serialVersionUID = 1;

    private final transient Page mine;
    private final long newest;
    private final transient List<PageDifference.Line> contradictions;

    /**
     * @param mine both changes together, mine where they contradict each other
     * @param newest the version that stands now
     */
    ChangedElsewhereException(Page mine, long newest, List<PageDifference.Line> contradictions) {
        super("The page was changed elsewhere");
        this.mine = mine;
        this.newest = newest;
        this.contradictions = contradictions;
    }

    Page mine() {
        return mine;
    }

    long newest() {
        return newest;
    }

    List<PageDifference.Line> contradictions() {
        return contradictions;
    }
}
