-- The password that is asked for, if one was set; one row at most.
CREATE TABLE access (
  id TINYINT PRIMARY KEY CHECK (id = 1),
  password_hash VARCHAR(100) NOT NULL,
  set_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);
