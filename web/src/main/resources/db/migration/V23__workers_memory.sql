-- What a worker told last of its memory, in bytes: worked with and kept for whoever looks next, its whole heap, and the most it may have.
ALTER TABLE worker ADD COLUMN working_bytes BIGINT NOT NULL DEFAULT 0;
ALTER TABLE worker ADD COLUMN heap_bytes BIGINT NOT NULL DEFAULT 0;
ALTER TABLE worker ADD COLUMN most_bytes BIGINT NOT NULL DEFAULT 0;
