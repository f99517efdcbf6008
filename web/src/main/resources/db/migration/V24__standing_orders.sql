-- A run's choices: under a name, or, without one, those of the last run to a place. Whether its returns take the place of those before.
CREATE TABLE standing_order (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(100) NOT NULL,
  destination VARCHAR(20) NOT NULL,
  choices JSON NOT NULL,
  used_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  UNIQUE KEY one_of_a_name (name, destination)
);
ALTER TABLE run ADD COLUMN replaces BOOLEAN NOT NULL DEFAULT FALSE;
-- What stands out in a return, found when it was written: a list of words and places, as JSON.
ALTER TABLE item ADD COLUMN odd TEXT;
