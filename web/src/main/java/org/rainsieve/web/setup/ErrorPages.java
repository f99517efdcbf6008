package org.rainsieve.web.setup;

import org.rainsieve.pipeline.UnreadableSettingsException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.CannotGetJdbcConnectionException;
import org.springframework.transaction.CannotCreateTransactionException;
import org.springframework.ui.Model;
import org.springframework.validation.BindException;
import org.springframework.web.bind.annotation.ControllerAdvice;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.method.annotation.MethodArgumentTypeMismatchException;

/** What a photographer sees when something cannot be done: one sentence, and no path, secret or trace. */
@ControllerAdvice
@ConditionalOnWebApplication
class ErrorPages {
    private static final Logger LOG = LoggerFactory.getLogger(ErrorPages.class);

    @ExceptionHandler(NotFoundException.class)
    @ResponseStatus(HttpStatus.NOT_FOUND)
    String notFound(NotFoundException e, Model model) {
        model.addAttribute("sentence", e.getMessage());
        return "problem";
    }

    @ExceptionHandler(NotPossibleException.class)
    @ResponseStatus(HttpStatus.UNPROCESSABLE_ENTITY)
    String notPossible(NotPossibleException e, Model model) {
        model.addAttribute("sentence", e.getMessage());
        return "problem";
    }

    @ExceptionHandler(UnreadableSettingsException.class)
    @ResponseStatus(HttpStatus.UNPROCESSABLE_ENTITY)
    String unreadable(UnreadableSettingsException e, Model model) {
        model.addAttribute("sentence", e.getMessage());
        return "problem";
    }

    @ExceptionHandler({BindException.class, MethodArgumentTypeMismatchException.class})
    @ResponseStatus(HttpStatus.BAD_REQUEST)
    String unreadable(Exception e, Model model) {
        model.addAttribute(
                "sentence", "One of the values cannot be read. Go back and correct it. Nothing was changed.");
        return "problem";
    }

    @ExceptionHandler({
        CannotGetJdbcConnectionException.class,
        DataAccessResourceFailureException.class,
        CannotCreateTransactionException.class
    })
    @ResponseStatus(HttpStatus.SERVICE_UNAVAILABLE)
    String noDatabase(Exception e, Model model) {
        LOG.warn("The database does not answer: {}", e.getMessage());
        model.addAttribute(
                "sentence", "The database does not answer. Nothing is lost; load this page again when it is back.");
        return "problem";
    }
}
