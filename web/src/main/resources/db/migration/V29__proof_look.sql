-- Shadows, contrast and saturation that a shoot's pictures will be given later, for judging noise by them, as JSON.
ALTER TABLE shoot ADD proof_look JSON;
