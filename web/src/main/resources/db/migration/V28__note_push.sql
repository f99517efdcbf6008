-- By choice: linear DNGs of pushed frames ask editors to show them as bright as pushed.
ALTER TABLE run ADD note_push BOOLEAN NOT NULL DEFAULT FALSE;
