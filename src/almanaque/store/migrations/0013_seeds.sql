-- The seed box: lots with their origin and age, germination tests, what was taken from a lot, trays with what is in which cell.
CREATE TABLE seed_lot (
  school_id      uuid NOT NULL REFERENCES school (id),
  id             uuid NOT NULL,
  crop           text NOT NULL CONSTRAINT seed_lot_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  variety        text NOT NULL DEFAULT '' CONSTRAINT seed_lot_variety_length CHECK (length(variety) <= 80),
  origin         text NOT NULL CONSTRAINT seed_lot_origin_known CHECK (origin IN ('bought', 'saved', 'swapped', 'gathered elsewhere')),
  whom           text NOT NULL DEFAULT '' CONSTRAINT seed_lot_whom_length CHECK (length(whom) <= 80),
  from_planting  uuid,
  year           integer NOT NULL CONSTRAINT seed_lot_year_sane CHECK (year BETWEEN 1950 AND 2150),
  grams          numeric(12,3) CONSTRAINT seed_lot_grams_positive CHECK (grams > 0),
  seeds          integer CONSTRAINT seed_lot_seeds_positive CHECK (seeds BETWEEN 1 AND 100000000),
  pelleted       boolean NOT NULL DEFAULT false,
  hybrid         boolean NOT NULL DEFAULT false,
  place          text NOT NULL DEFAULT 'cool and dry' CONSTRAINT seed_lot_place_known CHECK (place IN ('cool and dry', 'in a room', 'warm or damp')),
  where_kept     text NOT NULL DEFAULT '' CONSTRAINT seed_lot_where_length CHECK (length(where_kept) <= 80),
  packets        integer CONSTRAINT seed_lot_packets_sane CHECK (packets BETWEEN 1 AND 10000),
  price_minor    bigint CONSTRAINT seed_lot_price_sane CHECK (price_minor BETWEEN 1 AND 100000000),
  note           text NOT NULL DEFAULT '' CONSTRAINT seed_lot_note_length CHECK (length(note) <= 400),
  got_on         date NOT NULL,
  closed_on      date,
  closed_why     text NOT NULL DEFAULT '' CONSTRAINT seed_lot_closed_why_known CHECK (closed_why IN ('', 'used up', 'thrown away', 'given away')),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, from_planting) REFERENCES planting (school_id, id),
  CONSTRAINT seed_lot_amount_given CHECK (grams IS NOT NULL OR seeds IS NOT NULL),
  CONSTRAINT seed_lot_closed_with_reason CHECK ((closed_on IS NULL) = (closed_why = ''))
);

-- What was taken from a lot: for a planting, for a test, or given away in packets.
CREATE TABLE lot_use (
  school_id    uuid NOT NULL,
  id           uuid NOT NULL,
  lot_id       uuid NOT NULL,
  planting_id  uuid,
  on_day       date NOT NULL,
  seeds        integer NOT NULL CONSTRAINT lot_use_seeds_positive CHECK (seeds BETWEEN 1 AND 100000000),
  what         text NOT NULL DEFAULT '' CONSTRAINT lot_use_what_length CHECK (length(what) <= 80),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, lot_id) REFERENCES seed_lot (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id)
);
CREATE INDEX lot_use_by_lot ON lot_use (school_id, lot_id);
CREATE INDEX lot_use_by_planting ON lot_use (school_id, planting_id);

CREATE TABLE germination_test (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  lot_id      uuid NOT NULL,
  started_on  date NOT NULL,
  sown        integer NOT NULL CONSTRAINT germination_test_sown_sane CHECK (sown BETWEEN 1 AND 10000),
  place       text NOT NULL DEFAULT '' CONSTRAINT germination_test_place_length CHECK (length(place) <= 80),
  ended_on    date,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, lot_id) REFERENCES seed_lot (school_id, id) ON DELETE CASCADE,
  CONSTRAINT germination_test_ends_later CHECK (ended_on >= started_on)
);

-- How many were up on a day, all together.
CREATE TABLE germination_count (
  school_id  uuid NOT NULL,
  test_id    uuid NOT NULL,
  on_day     date NOT NULL,
  up         integer NOT NULL CONSTRAINT germination_count_up_sane CHECK (up BETWEEN 0 AND 10000),
  PRIMARY KEY (school_id, test_id, on_day),
  FOREIGN KEY (school_id, test_id) REFERENCES germination_test (school_id, id) ON DELETE CASCADE
);

CREATE TABLE tray (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          uuid NOT NULL,
  name        text NOT NULL CONSTRAINT tray_name_given CHECK (name ~ '\S' AND length(name) <= 60),
  columns     integer NOT NULL CONSTRAINT tray_columns_sane CHECK (columns BETWEEN 1 AND 40),
  rows        integer NOT NULL CONSTRAINT tray_rows_sane CHECK (rows BETWEEN 1 AND 40),
  place       text NOT NULL DEFAULT '' CONSTRAINT tray_place_length CHECK (length(place) <= 60),
  emptied_on  date,
  PRIMARY KEY (school_id, id),
  CONSTRAINT tray_name_once UNIQUE (school_id, name)
);

-- Cells of a tray, counted row by row from 1, that one sowing takes.
CREATE TABLE tray_sowing (
  school_id    uuid NOT NULL,
  id           uuid NOT NULL,
  tray_id      uuid NOT NULL,
  first_cell   integer NOT NULL CONSTRAINT tray_sowing_first_sane CHECK (first_cell >= 1),
  last_cell    integer NOT NULL,
  crop         text NOT NULL CONSTRAINT tray_sowing_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  planting_id  uuid,
  lot_id       uuid,
  sown_on      date NOT NULL,
  per_cell     integer NOT NULL CONSTRAINT tray_sowing_per_cell_sane CHECK (per_cell BETWEEN 1 AND 20),
  goes_home    integer NOT NULL DEFAULT 0 CONSTRAINT tray_sowing_home_sane CHECK (goes_home >= 0),
  up           integer CONSTRAINT tray_sowing_up_sane CHECK (up >= 0),
  gone_on      date,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, tray_id) REFERENCES tray (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id),
  FOREIGN KEY (school_id, lot_id) REFERENCES seed_lot (school_id, id),
  CONSTRAINT tray_sowing_in_order CHECK (last_cell >= first_cell),
  CONSTRAINT tray_sowing_one_in_a_cell EXCLUDE USING gist
    (school_id WITH =, tray_id WITH =, int4range(first_cell, last_cell, '[]') WITH &&) WHERE (gone_on IS NULL)
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['seed_lot', 'lot_use', 'germination_test', 'germination_count', 'tray', 'tray_sowing'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
