-- By how much this machine takes longer than a usual one, of an engine: tells times before anything was made.
CREATE TABLE speed_trial (
  engine VARCHAR(80) PRIMARY KEY,
  slower DOUBLE NOT NULL
);
