-- Until when what is ripe may stand in the ground or on the plant, after the end of its best.

ALTER TABLE forecast ADD COLUMN stands_until date;
ALTER TABLE forecast ADD CONSTRAINT forecast_stands_after_picking CHECK (stands_until >= last_pick);
