-- A run may return each frame in several forms; the forms other than linear DNG as the run's delivery says.
ALTER TABLE run ADD delivery JSON;
ALTER TABLE item ADD form VARCHAR(8) NOT NULL DEFAULT 'DNG', ADD KEY by_frame (frame_id), ADD KEY by_run (run_id),
  DROP KEY one_version, DROP KEY once_per_run,
  ADD UNIQUE KEY one_version (frame_id, form, version), ADD UNIQUE KEY once_per_run (run_id, frame_id, form);
-- Files that another program handed over; TIFFs among them come back as TIFFs.
ALTER TABLE frame ADD handed_over BOOLEAN NOT NULL DEFAULT FALSE, ADD tiff BOOLEAN NOT NULL DEFAULT FALSE;
