-- Wakes workers for items and holds their leases; what is to be done, and in which order, stays with the item rows.
CREATE TABLE scheduled_tasks (
  task_name VARCHAR(100) NOT NULL,
  task_instance VARCHAR(100) NOT NULL,
  task_data BLOB,
  execution_time TIMESTAMP(6) NOT NULL,
  picked BOOLEAN NOT NULL,
  picked_by VARCHAR(50),
  last_success TIMESTAMP(6) NULL,
  last_failure TIMESTAMP(6) NULL,
  consecutive_failures INT,
  last_heartbeat TIMESTAMP(6) NULL,
  version BIGINT NOT NULL,
  PRIMARY KEY (task_name, task_instance),
  KEY by_execution_time (execution_time),
  KEY by_heartbeat (last_heartbeat)
);
ALTER TABLE item DROP KEY by_state, DROP COLUMN lease_until, ADD KEY by_state (state, run_id);
-- Pages that are open ask for what has changed, not for all of a long run.
ALTER TABLE item ADD changed_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
  ADD KEY by_change (run_id, changed_at);
