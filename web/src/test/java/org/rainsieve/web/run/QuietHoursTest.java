package org.rainsieve.web.run;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.LocalTime;
import org.junit.jupiter.api.Test;

class QuietHoursTest {
    @Test
    void withinADayAndOverMidnight() {
        QuietHours day = QuietHours.parse("08:00-18:00");
        assertThat(day.at(LocalTime.of(8, 0))).isTrue();
        assertThat(day.at(LocalTime.of(17, 59))).isTrue();
        assertThat(day.at(LocalTime.of(18, 0))).isFalse();
        QuietHours night = QuietHours.parse("22:30-06:00");
        assertThat(night.at(LocalTime.of(23, 0))).isTrue();
        assertThat(night.at(LocalTime.of(5, 59))).isTrue();
        assertThat(night.at(LocalTime.NOON)).isFalse();
        assertThat(QuietHours.parse("").at(LocalTime.NOON)).isFalse();
        assertThatThrownBy(() -> QuietHours.parse("all day")).hasMessageContaining("08:00-18:00");
    }
}
