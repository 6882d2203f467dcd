-- A conclusion may be drawn where the readings could not be worked out; its probability then means nothing.
ALTER TABLE conclusion ADD COLUMN worked_out INTEGER NOT NULL DEFAULT 1 CHECK (worked_out IN (0, 1));
