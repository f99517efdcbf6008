-- Push: stops a frame was exposed too low; where it was taken from: typed, or sidecar. What a body shows of itself.
-- pooled: whether the frame's noise counts for its body's law. dark: an exposure without light.
ALTER TABLE frame
  ADD push DOUBLE,
  ADD push_from VARCHAR(16),
  ADD compensation DOUBLE,
  ADD body VARCHAR(200),
  ADD serial VARCHAR(80),
  ADD pooled BOOLEAN NOT NULL DEFAULT TRUE,
  ADD dark BOOLEAN NOT NULL DEFAULT FALSE,
  ADD focus_map MEDIUMTEXT,
  ADD defects MEDIUMBLOB;
UPDATE frame SET body = camera;

-- Settings that one frame holds instead of its rung's; rows are only ever added, the newest counts, NULL follows the rung.
CREATE TABLE own_settings (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  frame_id BIGINT NOT NULL REFERENCES frame (id),
  settings JSON,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY by_frame (frame_id)
);

-- base: the version whose content this one was made on; of: the version whose content it repeats (undo, redo).
ALTER TABLE page_version ADD base_id BIGINT, ADD of_id BIGINT;
UPDATE page_version SET base_id = parent_id;

CREATE TABLE starter (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(60) NOT NULL UNIQUE,
  starter JSON NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

-- Bodies of which each serial number has a page of its own.
CREATE TABLE apart (body VARCHAR(200) PRIMARY KEY);

-- Defect maps that runs used, named by their hash in the settings of returns.
CREATE TABLE defect_map (
  hash CHAR(64) PRIMARY KEY,
  camera VARCHAR(200) NOT NULL,
  defects INT NOT NULL,
  places MEDIUMBLOB NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

-- More is read on a frame than before: what was read already is read again, in the background.
UPDATE frame SET state = 'unread', lease_until = NULL WHERE state = 'ready';
