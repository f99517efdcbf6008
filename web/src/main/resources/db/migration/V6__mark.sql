-- mark: keep or drop, set by the owner on the contact sheet; dropped frames stay out of runs.
ALTER TABLE frame ADD mark VARCHAR(8);
