-- Of the waiting items those of the run with the highest number come first.
ALTER TABLE run ADD priority INT NOT NULL DEFAULT 0;
