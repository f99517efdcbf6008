-- What frames hold of their own, each state kept, so that it can be undone across restarts.
CREATE TABLE frame_steps (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  frame_id BIGINT NOT NULL REFERENCES frame (id),
  parent_id BIGINT,
  steps JSON NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY by_frame (frame_id)
);
ALTER TABLE frame ADD steps_at BIGINT;

INSERT INTO frame_steps (frame_id, steps)
SELECT o.frame_id, JSON_OBJECT('denoise', JSON_EXTRACT(o.settings, '$'))
FROM own_settings o
WHERE o.settings IS NOT NULL AND o.id = (SELECT MAX(p.id) FROM own_settings p WHERE p.frame_id = o.frame_id);
UPDATE frame f SET steps_at = (SELECT MAX(s.id) FROM frame_steps s WHERE s.frame_id = f.id);
DROP TABLE own_settings;

CREATE TABLE lens_choice (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  camera VARCHAR(200) NOT NULL,
  lens VARCHAR(200) NOT NULL,
  choice JSON NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY by_pair (camera, lens)
);

ALTER TABLE run ADD enlarge JSON;
