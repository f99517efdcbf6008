package org.rainsieve.web.book;

import org.rainsieve.book.BookFile;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.HttpStatus;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.ControllerAdvice;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.ResponseStatus;

/** What is shown when a camera's page was changed by somebody else meanwhile, wherever the change was made. */
@ControllerAdvice
@ConditionalOnWebApplication
class ChangedElsewherePage {
    @ExceptionHandler(ChangedElsewhereException.class)
    @ResponseStatus(HttpStatus.CONFLICT)
    String changedElsewhere(ChangedElsewhereException e, Model model) {
        model.addAttribute("camera", e.mine().camera());
        model.addAttribute("version", e.newest());
        model.addAttribute("lines", e.contradictions());
        model.addAttribute("text", BookFile.write(e.mine()));
        return "book-conflict";
    }
}
