-- Where a frame is judged, as last left.
CREATE TABLE strip_spot (
  frame_id BIGINT PRIMARY KEY REFERENCES frame (id),
  spots JSON NOT NULL,
  changed_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3)
);

-- What was chosen on strips, with what it was chosen from: the reason of the settings that followed.
CREATE TABLE strip_choice (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  frame_id BIGINT NOT NULL REFERENCES frame (id),
  camera VARCHAR(200) NOT NULL,
  rows_of VARCHAR(20) NOT NULL,
  blind BOOLEAN NOT NULL,
  chosen VARCHAR(300) NOT NULL,
  candidates JSON NOT NULL,
  spots JSON NOT NULL,
  target VARCHAR(20) NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY by_camera (camera, rows_of)
);
