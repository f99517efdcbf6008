-- How sure a frame's noise law is, and whether its file tells it: half intervals in %, of the sd at the frame's own brightness,
-- at black and at 18 % grey. Frames read before know the first only.
ALTER TABLE frame
  ADD COLUMN noise_told BOOLEAN NOT NULL DEFAULT FALSE,
  ADD COLUMN noise_error DOUBLE NULL,
  ADD COLUMN noise_black_error DOUBLE NULL,
  ADD COLUMN noise_grey_error DOUBLE NULL;
UPDATE frame SET
  noise_told = COALESCE(JSON_TYPE(JSON_EXTRACT(reading, '$.profile')) = 'OBJECT', FALSE),
  noise_error = JSON_VALUE(reading, '$.noise.sigmaErrorPercent')
WHERE reading IS NOT NULL AND JSON_VALID(reading);
