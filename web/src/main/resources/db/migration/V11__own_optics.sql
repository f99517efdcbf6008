-- The correction that a file itself asks for after demosaicing.
ALTER TABLE frame ADD own_optics JSON;
