-- The colour filters of a frame's sensor, as CfaPattern writes them; NULL for frames read before this was kept (2×2).
ALTER TABLE frame ADD COLUMN pattern VARCHAR(60) NULL;
