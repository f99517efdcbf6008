-- A form that is sent twice starts one run: each form has a word of its own, which the run it started is kept under.
CREATE TABLE run_start (
  once VARCHAR(64) PRIMARY KEY,
  run_id BIGINT NULL,
  at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP
);
