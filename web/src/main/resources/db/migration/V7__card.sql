-- What was copied off cards: by content, so that the same file is never copied twice.
CREATE TABLE card_file (
  hash CHAR(64) PRIMARY KEY,
  path VARCHAR(2000) NOT NULL,
  copied_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);

-- A copy of a card. One that did not come to its end goes on in the same shoot.
CREATE TABLE card_copy (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  card VARCHAR(2000) NOT NULL,
  shoot_id BIGINT NOT NULL,
  finished BOOLEAN NOT NULL DEFAULT FALSE,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);
