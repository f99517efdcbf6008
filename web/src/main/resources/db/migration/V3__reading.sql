-- What was measured on a frame (JSON, see Reading), and what its owner decided when it is a stray:
-- held (left out of runs until it is looked at) or accepted (follows its rung and is no stray any more).
ALTER TABLE frame ADD COLUMN reading TEXT NULL, ADD COLUMN verdict VARCHAR(20) NULL;
