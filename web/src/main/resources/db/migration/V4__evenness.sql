-- Luminance noise of a return at 18 % grey, 1 = clipping; and whether a run makes the grain of each camera's frames alike.
ALTER TABLE item ADD COLUMN grain DOUBLE NULL;
ALTER TABLE run ADD COLUMN even_grain BOOLEAN NOT NULL DEFAULT FALSE;
