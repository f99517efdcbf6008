-- How often reading a frame, or working on an item, ended its worker; and a lock for what takes frames in.
ALTER TABLE frame ADD COLUMN ended_workers INT NOT NULL DEFAULT 0;
ALTER TABLE item ADD COLUMN ended_workers INT NOT NULL DEFAULT 0;
CREATE TABLE intake_lock (id INT PRIMARY KEY);
INSERT INTO intake_lock VALUES (1);
