-- By choice: exposure and colour edits of the originals go on into the returns, and originals are copied to where returns go.
ALTER TABLE run ADD carry_edits BOOLEAN NOT NULL DEFAULT FALSE, ADD copy_originals BOOLEAN NOT NULL DEFAULT FALSE;
-- A copy for delivery is made of a return, not of the original (0).
ALTER TABLE item ADD made_from BIGINT NOT NULL DEFAULT 0, DROP KEY once_per_run,
  ADD UNIQUE KEY once_per_run (run_id, frame_id, form, made_from);
