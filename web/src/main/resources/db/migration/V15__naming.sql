-- How a run's returns are named; null for the usual way.
ALTER TABLE run ADD naming VARCHAR(200);
