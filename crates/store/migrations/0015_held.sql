-- A figure of Ze that an instrument sent is held until the earthing conductor is back on: under the event by which the
-- supply was exposed. Empty: it is none.
ALTER TABLE received ADD COLUMN exposure TEXT NOT NULL DEFAULT '';
CREATE INDEX received_held ON received (exposure) WHERE exposure <> '';
