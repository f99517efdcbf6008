-- A shoot: the frames of one outing or job, taken in together.
CREATE TABLE shoot (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(200) NOT NULL,
  folder VARCHAR(2000) NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

-- A frame: one file taken in, where it lies. state: unread, ready, refused, own (a return of ours, not a frame).
CREATE TABLE frame (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  shoot_id BIGINT NOT NULL REFERENCES shoot (id),
  path VARCHAR(2000) NOT NULL,
  path_hash BINARY(32) NOT NULL,
  name VARCHAR(255) NOT NULL,
  state VARCHAR(16) NOT NULL DEFAULT 'unread',
  reason VARCHAR(1000),
  size_bytes BIGINT NOT NULL,
  sha256 CHAR(64),
  camera VARCHAR(200),
  iso INT,
  exposure_seconds DOUBLE,
  aperture DOUBLE,
  focal_length_mm DOUBLE,
  lens VARCHAR(200),
  taken_at VARCHAR(40),
  width INT,
  height INT,
  noise JSON,
  reader BIGINT,
  lease_until DATETIME(3),
  UNIQUE KEY one_per_shoot (shoot_id, path_hash),
  KEY by_state (state),
  KEY by_camera (camera, iso)
);

-- The camera book: pages are append-only; the newest version of a camera's page is in force.
CREATE TABLE page_version (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  camera VARCHAR(200) NOT NULL,
  parent_id BIGINT,
  reason VARCHAR(400) NOT NULL,
  page JSON NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY by_camera (camera, id)
);

CREATE TABLE worker (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  address VARCHAR(200) NOT NULL,
  secret CHAR(64) NOT NULL,
  started_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  seen_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

-- A run: one pass of a set of frames through the steps. state: running, paused, stopped.
CREATE TABLE run (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  shoot_id BIGINT NOT NULL REFERENCES shoot (id),
  state VARCHAR(16) NOT NULL DEFAULT 'running',
  destination VARCHAR(16) NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

-- One frame in one run. state: waiting, taken, returned, failed. The row is the truth about a return: before a file is
-- published its name, version, hash and the attempt stand here.
CREATE TABLE item (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  run_id BIGINT NOT NULL REFERENCES run (id),
  frame_id BIGINT NOT NULL REFERENCES frame (id),
  state VARCHAR(16) NOT NULL DEFAULT 'waiting',
  attempt INT NOT NULL DEFAULT 0,
  worker_id BIGINT,
  lease_until DATETIME(3),
  settings JSON NOT NULL,
  progress DOUBLE NOT NULL DEFAULT 0,
  version INT,
  final_path VARCHAR(2000),
  hash CHAR(64),
  size_bytes BIGINT,
  noise_left DOUBLE,
  reason VARCHAR(1000),
  started_at DATETIME(3),
  finished_at DATETIME(3),
  UNIQUE KEY one_version (frame_id, version),
  UNIQUE KEY once_per_run (run_id, frame_id),
  KEY by_state (state, lease_until)
);

-- Every file that an attempt was about to publish, so that whoever takes over can tell it from a stranger's.
CREATE TABLE publication (
  item_id BIGINT NOT NULL REFERENCES item (id),
  attempt INT NOT NULL,
  final_path VARCHAR(2000) NOT NULL,
  hash CHAR(64) NOT NULL,
  PRIMARY KEY (item_id, attempt)
);
