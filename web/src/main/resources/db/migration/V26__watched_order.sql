-- A watched folder may start a standing order by itself.
ALTER TABLE shoot ADD order_id BIGINT;
