-- What a glance at the file told before it was read. looked: 0 not yet, 1 looked at, 2 with a picture of its own.
ALTER TABLE frame ADD looked TINYINT NOT NULL DEFAULT 0, ADD rating TINYINT, ADD keywords VARCHAR(2000),
  ADD place VARCHAR(60), ADD orientation TINYINT, ADD KEY by_look (looked, id);
-- Whether new files of the shoot's folder are taken in by themselves, and whether those below it are.
ALTER TABLE shoot ADD watched BOOLEAN NOT NULL DEFAULT FALSE, ADD deep BOOLEAN NOT NULL DEFAULT FALSE;
