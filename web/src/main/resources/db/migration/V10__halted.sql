-- Why a run waits by itself, in plain words.
ALTER TABLE run ADD halted VARCHAR(500);
