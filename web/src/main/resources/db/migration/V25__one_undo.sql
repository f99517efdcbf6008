-- What was written by one change belongs together and is undone together: a frame's own settings, its camera's page, its lens.
ALTER TABLE frame_steps ADD change_no BIGINT;
ALTER TABLE page_version ADD change_no BIGINT;
-- A choice for a lens that was undone stands aside until it is redone or another one is made.
ALTER TABLE lens_choice ADD change_no BIGINT, ADD undone BOOLEAN NOT NULL DEFAULT FALSE;
