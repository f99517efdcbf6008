package org.rainsieve.web.shoot;

import org.springframework.stereotype.Component;

/** What is being prepared and comes by itself, told on the first page while there is nothing else to see. */
@Component
public class UnderWay {
    private volatile String words = "";

    public String words() {
        return words;
    }

    /** @param words empty when all is there */
    public void say(String words) {
        this.words = words;
    }
}
