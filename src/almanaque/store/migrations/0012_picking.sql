-- Picking in full: parts, quality, units with weights of the school's own, what becomes of a picking, curing, tasting, money, made
-- products; and what the book needs to compare a forecast with what came.
ALTER TABLE harvest
  ADD COLUMN quality        text NOT NULL DEFAULT '' CONSTRAINT harvest_quality_length CHECK (length(quality) <= 60),
  ADD COLUMN team           text NOT NULL DEFAULT '' CONSTRAINT harvest_team_length CHECK (length(team) <= 60),
  ADD COLUMN low_g          numeric(12,2) CONSTRAINT harvest_low_positive CHECK (low_g > 0),
  ADD COLUMN high_g         numeric(12,2) CONSTRAINT harvest_high_above_low CHECK (high_g >= low_g),
  ADD COLUMN basket_id      uuid,
  ADD COLUMN taken_back_on  date;
ALTER TABLE harvest ADD CONSTRAINT harvest_part_length CHECK (length(part) BETWEEN 1 AND 30);
ALTER TABLE harvest ADD CONSTRAINT harvest_unit_length CHECK (length(unit) BETWEEN 1 AND 20);
CREATE INDEX harvest_by_day ON harvest (school_id, picked_on);

-- Shares of a third add up to the whole only with more digits than before.
ALTER TABLE use_of_harvest DROP CONSTRAINT use_of_harvest_known;
ALTER TABLE use_of_harvest ALTER COLUMN share TYPE numeric(12,10);
ALTER TABLE use_of_harvest ADD COLUMN to_what text NOT NULL DEFAULT '' CONSTRAINT use_of_harvest_to_what_length CHECK (length(to_what) <= 80);
ALTER TABLE use_of_harvest ADD CONSTRAINT use_of_harvest_known CHECK (use IN ('eaten in class', 'kitchen', 'taken home', 'given away',
  'sold', 'kept as seed', 'planting stock', 'preserved', 'compost', 'lost'));

-- One weighing of so many of a unit: `amount` bunches together weighed `grams`.
CREATE TABLE weighing (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          uuid NOT NULL,
  crop        text NOT NULL CONSTRAINT weighing_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  unit        text NOT NULL CONSTRAINT weighing_unit_given CHECK (unit ~ '\S' AND length(unit) <= 20),
  amount      numeric(12,3) NOT NULL CONSTRAINT weighing_amount_positive CHECK (amount > 0),
  grams       numeric(12,2) NOT NULL CONSTRAINT weighing_grams_positive CHECK (grams > 0),
  weighed_on  date NOT NULL,
  noted_by    uuid REFERENCES account (id),
  noted_at    timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id)
);
CREATE INDEX weighing_by_crop ON weighing (school_id, crop, unit);

CREATE TABLE curing (
  school_id   uuid NOT NULL,
  harvest_id  uuid NOT NULL,
  hung_on     date NOT NULL,
  place       text NOT NULL DEFAULT '' CONSTRAINT curing_place_length CHECK (length(place) <= 80),
  ready_on    date NOT NULL,
  cured_on    date,
  cured_g     numeric(12,2) CONSTRAINT curing_grams_positive CHECK (cured_g > 0),
  note        text NOT NULL DEFAULT '' CONSTRAINT curing_note_length CHECK (length(note) <= 400),
  PRIMARY KEY (school_id, harvest_id),
  FOREIGN KEY (school_id, harvest_id) REFERENCES harvest (school_id, id) ON DELETE CASCADE,
  CONSTRAINT curing_ready_later CHECK (ready_on >= hung_on),
  CONSTRAINT curing_ends_later CHECK (cured_on >= hung_on)
);

-- How many tried it and how many liked it; nobody by name.
CREATE TABLE tasting (
  school_id       uuid NOT NULL REFERENCES school (id),
  id              uuid NOT NULL,
  crop            text NOT NULL CONSTRAINT tasting_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  on_day          date NOT NULL,
  class_group_id  uuid,
  how             text NOT NULL DEFAULT '' CONSTRAINT tasting_how_length CHECK (length(how) <= 60),
  tried           integer NOT NULL CONSTRAINT tasting_tried_sane CHECK (tried BETWEEN 1 AND 2000),
  liked           integer NOT NULL CONSTRAINT tasting_liked_some CHECK (liked >= 0 AND liked <= tried),
  note            text NOT NULL DEFAULT '' CONSTRAINT tasting_note_length CHECK (length(note) <= 400),
  noted_by        uuid REFERENCES account (id),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id)
);
CREATE INDEX tasting_by_day ON tasting (school_id, on_day);

-- What money is earned or granted for. Amounts are minor units of the school's currency.
CREATE TABLE purpose (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          uuid NOT NULL,
  name        text NOT NULL CONSTRAINT purpose_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  goal_minor  bigint CONSTRAINT purpose_goal_sane CHECK (goal_minor BETWEEN 1 AND 10000000000),
  note        text NOT NULL DEFAULT '' CONSTRAINT purpose_note_length CHECK (length(note) <= 400),
  closed_on   date,
  PRIMARY KEY (school_id, id),
  CONSTRAINT purpose_name_once UNIQUE (school_id, name)
);

CREATE TABLE product (
  school_id    uuid NOT NULL REFERENCES school (id),
  id           uuid NOT NULL,
  name         text NOT NULL CONSTRAINT product_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  kind         text NOT NULL CONSTRAINT product_kind_known CHECK (kind IN ('dried', 'powder', 'pickle', 'in oil', 'jam or chutney',
                 'frozen', 'cooked', 'tea or herbs', 'seedlings', 'other')),
  batch        text NOT NULL CONSTRAINT product_batch_given CHECK (batch ~ '\S' AND length(batch) <= 30),
  made_on      date NOT NULL,
  best_before  date,
  amount       numeric(12,3) NOT NULL CONSTRAINT product_amount_positive CHECK (amount > 0),
  unit         text NOT NULL CONSTRAINT product_unit_given CHECK (unit ~ '\S' AND length(unit) <= 20),
  recipe       text NOT NULL DEFAULT '' CONSTRAINT product_recipe_length CHECK (length(recipe) <= 200),
  label        text NOT NULL DEFAULT '' CONSTRAINT product_label_length CHECK (length(label) <= 400),
  read_on      date,
  noted_by     uuid REFERENCES account (id),
  PRIMARY KEY (school_id, id),
  CONSTRAINT product_batch_once UNIQUE (school_id, batch),
  CONSTRAINT product_keeps_later CHECK (best_before >= made_on)
);

CREATE TABLE ingredient (
  school_id    uuid NOT NULL,
  product_id   uuid NOT NULL,
  number       integer NOT NULL CONSTRAINT ingredient_few CHECK (number BETWEEN 1 AND 30),
  planting_id  uuid,
  what         text NOT NULL CONSTRAINT ingredient_what_given CHECK (what ~ '\S' AND length(what) <= 80),
  grams        numeric(12,2) CONSTRAINT ingredient_grams_positive CHECK (grams > 0),
  PRIMARY KEY (school_id, product_id, number),
  FOREIGN KEY (school_id, product_id) REFERENCES product (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id)
);

CREATE TABLE ledger_entry (
  school_id     uuid NOT NULL REFERENCES school (id),
  id            uuid NOT NULL,
  purpose_id    uuid,
  kind          text NOT NULL CONSTRAINT ledger_entry_kind_known CHECK (kind IN ('sale', 'grant', 'gift', 'purchase')),
  on_day        date NOT NULL,
  what          text NOT NULL CONSTRAINT ledger_entry_what_given CHECK (what ~ '\S' AND length(what) <= 120),
  amount_minor  bigint NOT NULL CONSTRAINT ledger_entry_amount_sane CHECK (amount_minor BETWEEN 1 AND 10000000000),
  whom          text NOT NULL DEFAULT '' CONSTRAINT ledger_entry_whom_length CHECK (length(whom) <= 80),
  harvest_id    uuid,
  product_id    uuid,
  planting_id   uuid,
  taken_back_on date,
  noted_by      uuid REFERENCES account (id),
  noted_at      timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, purpose_id) REFERENCES purpose (school_id, id),
  FOREIGN KEY (school_id, harvest_id) REFERENCES harvest (school_id, id),
  FOREIGN KEY (school_id, product_id) REFERENCES product (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id)
);
CREATE INDEX ledger_entry_by_day ON ledger_entry (school_id, on_day);

-- What a crop costs where the school is: `price_minor` for one `unit`.
CREATE TABLE local_price (
  school_id    uuid NOT NULL REFERENCES school (id),
  crop         text NOT NULL CONSTRAINT local_price_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  unit         text NOT NULL CONSTRAINT local_price_unit_given CHECK (unit ~ '\S' AND length(unit) <= 20),
  price_minor  bigint NOT NULL CONSTRAINT local_price_sane CHECK (price_minor BETWEEN 1 AND 100000000),
  said_by      text NOT NULL DEFAULT '' CONSTRAINT local_price_said_by_length CHECK (length(said_by) <= 80),
  on_day       date NOT NULL,
  PRIMARY KEY (school_id, crop)
);

-- Plants and ground of a planting, kept with its forecast, so that the book need not lay out ten years of beds again.
ALTER TABLE forecast
  ADD COLUMN plants   integer CONSTRAINT forecast_plants_sane CHECK (plants >= 0),
  ADD COLUMN area_m2  double precision CONSTRAINT forecast_area_sane CHECK (area_m2 >= 0);

-- The forecast as it was when the planting was started; what came is measured against it. `corrected` days were in it already.
CREATE TABLE forecast_made (
  school_id         uuid NOT NULL,
  planting_id       uuid NOT NULL,
  made_on           date NOT NULL,
  first_pick_early  date NOT NULL,
  first_pick        date NOT NULL,
  first_pick_late   date NOT NULL,
  last_pick         date NOT NULL,
  corrected         integer NOT NULL DEFAULT 0 CONSTRAINT forecast_made_corrected_sane CHECK (corrected BETWEEN -120 AND 120),
  PRIMARY KEY (school_id, planting_id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE,
  CONSTRAINT forecast_made_in_order CHECK (first_pick_early <= first_pick AND first_pick <= first_pick_late AND first_pick <= last_pick)
);

-- Days by which the school's own seasons differ from the forecast of a crop, once somebody has put them to use.
CREATE TABLE correction (
  school_id   uuid NOT NULL REFERENCES school (id),
  crop        text NOT NULL CONSTRAINT correction_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  days        integer NOT NULL CONSTRAINT correction_days_sane CHECK (days BETWEEN -60 AND 60 AND days <> 0),
  seasons     integer NOT NULL CONSTRAINT correction_seasons_enough CHECK (seasons >= 3),
  applied_on  date NOT NULL,
  PRIMARY KEY (school_id, crop)
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['weighing', 'curing', 'tasting', 'purpose', 'product', 'ingredient', 'ledger_entry', 'local_price',
      'forecast_made', 'correction'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
