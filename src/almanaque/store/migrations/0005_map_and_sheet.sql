-- The drawing that counts: beds of any shape, what stands around them and how high, rival drafts, spacing by choice, what the
-- soil is and got, when a bed is closed, and what there is in the shed.
ALTER TABLE school
  ADD COLUMN rest_years    integer NOT NULL DEFAULT 3 CONSTRAINT school_rest_years_sane CHECK (rest_years BETWEEN 2 AND 4),
  ADD COLUMN neighbours    text NOT NULL DEFAULT 'traditional'
    CONSTRAINT school_neighbours_known CHECK (neighbours IN ('off', 'evidence', 'traditional')),
  ADD COLUMN feeding       text NOT NULL DEFAULT 'compost'
    CONSTRAINT school_feeding_known CHECK (feeding IN ('compost', 'fertiliser')),
  ADD COLUMN hand_span_mm  numeric(12,4) CONSTRAINT school_hand_span_sane CHECK (hand_span_mm BETWEEN 60 AND 300),
  ADD COLUMN invasive_here text NOT NULL DEFAULT '' CONSTRAINT school_invasive_here_length CHECK (length(invasive_here) <= 400),
  ADD COLUMN currency      text NOT NULL DEFAULT 'USD' CONSTRAINT school_currency_known CHECK (currency ~ '^[A-Z]{3}$');

-- Where north lies on the map (clockwise from its upper edge), and its top-left corner in WGS 84; the school's place if not given.
ALTER TABLE site
  ADD COLUMN north_deg  double precision NOT NULL DEFAULT 0 CONSTRAINT site_north_sane CHECK (north_deg >= 0 AND north_deg < 360),
  ADD COLUMN latitude   double precision CONSTRAINT site_latitude_sane CHECK (latitude BETWEEN -90 AND 90),
  ADD COLUMN longitude  double precision CONSTRAINT site_longitude_sane CHECK (longitude BETWEEN -180 AND 180),
  ADD CONSTRAINT site_corner_whole CHECK ((latitude IS NULL) = (longitude IS NULL));

-- Turned clockwise about the middle of the box. Corners lie in the box, from its top-left one; without them it is the whole box.
ALTER TABLE feature DROP CONSTRAINT feature_kind_known;
ALTER TABLE feature
  ADD CONSTRAINT feature_kind_known CHECK (kind IN ('building', 'wall', 'fence', 'shade roof', 'tree', 'bush', 'path', 'gate', 'tap',
    'rain barrel', 'compost', 'bench', 'tepee', 'trellis', 'tunnel', 'frame', 'cover', 'pole', 'other')),
  ADD CONSTRAINT feature_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  ADD CONSTRAINT feature_size_sane CHECK (width_mm <= 1000000 AND depth_mm <= 1000000),
  ADD COLUMN turn_deg     double precision NOT NULL DEFAULT 0 CONSTRAINT feature_turn_sane CHECK (turn_deg >= 0 AND turn_deg < 360),
  ADD COLUMN outline_mm   jsonb,
  ADD COLUMN height_mm    numeric(12,4) CONSTRAINT feature_height_sane CHECK (height_mm > 0 AND height_mm <= 150000),
  ADD COLUMN base_mm      numeric(12,4) NOT NULL DEFAULT 0,
  ADD COLUMN months_bare  integer[] NOT NULL DEFAULT '{}'
    CONSTRAINT feature_months_known CHECK (months_bare <@ ARRAY[1,2,3,4,5,6,7,8,9,10,11,12]),
  ADD COLUMN hose_mm      numeric(12,4) CONSTRAINT feature_hose_sane CHECK (hose_mm > 0 AND hose_mm <= 300000),
  ADD CONSTRAINT feature_base_below_top CHECK (base_mm >= 0 AND base_mm < coalesce(height_mm, 'infinity'));

ALTER TABLE bed DROP CONSTRAINT bed_kind_known;
ALTER TABLE bed
  ADD CONSTRAINT bed_kind_known CHECK (kind IN ('raised', 'sunken', 'ground', 'plot', 'container', 'fabric pot', 'planter', 'sill')),
  ADD COLUMN turn_deg    double precision NOT NULL DEFAULT 0 CONSTRAINT bed_turn_sane CHECK (turn_deg >= 0 AND turn_deg < 360),
  ADD COLUMN outline_mm  jsonb,
  ADD COLUMN volume_l    numeric(10,2) CONSTRAINT bed_volume_sane CHECK (volume_l > 0 AND volume_l <= 100000),
  ADD COLUMN pockets     integer CONSTRAINT bed_pockets_sane CHECK (pockets BETWEEN 1 AND 200),
  ADD COLUMN light_h     numeric(4,1) CONSTRAINT bed_light_sane CHECK (light_h BETWEEN 0 AND 24),
  ADD COLUMN warmth_c    numeric(4,1) CONSTRAINT bed_warmth_sane CHECK (warmth_c BETWEEN -20 AND 50);

ALTER TABLE kept_part
  ADD COLUMN from_day  date,
  ADD COLUMN to_day    date,
  ADD CONSTRAINT kept_part_ends_after_start CHECK (to_day >= from_day);

-- Part of a bed with a purpose of its own, and who looks after it.
CREATE TABLE section (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  bed_id          uuid NOT NULL,
  purpose         text NOT NULL CONSTRAINT section_purpose_given CHECK (purpose ~ '\S' AND length(purpose) <= 80),
  class_group_id  uuid,
  x_mm            numeric(12,4) NOT NULL,
  y_mm            numeric(12,4) NOT NULL,
  length_mm       numeric(12,4) NOT NULL,
  width_mm        numeric(12,4) NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id),
  CONSTRAINT section_size_positive CHECK (length_mm > 0 AND width_mm > 0 AND x_mm >= 0 AND y_mm >= 0)
);

CREATE TABLE bed_closure (
  school_id  uuid NOT NULL,
  id         uuid NOT NULL,
  bed_id     uuid NOT NULL,
  starts     date NOT NULL,
  ends       date NOT NULL,
  reason     text NOT NULL CONSTRAINT bed_closure_reason_given CHECK (reason ~ '\S' AND length(reason) <= 120),
  paid_by    text NOT NULL DEFAULT '' CONSTRAINT bed_closure_paid_by_length CHECK (length(paid_by) <= 80),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  CONSTRAINT bed_closure_ends_after_start CHECK (ends >= starts)
);

-- A draft is somebody's pencil plan of a season.
ALTER TABLE draft
  ADD COLUMN made_by         text NOT NULL DEFAULT '' CONSTRAINT draft_made_by_length CHECK (length(made_by) <= 80),
  ADD COLUMN class_group_id  uuid,
  ADD COLUMN closed_on       date,
  ADD COLUMN created_at      timestamptz NOT NULL DEFAULT now(),
  ADD CONSTRAINT draft_group FOREIGN KEY (school_id, class_group_id)
    REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id);

-- How a planting is laid out, which figure it follows, and how many there are to place. `with_others`: on purpose among others.
ALTER TABLE planting
  ADD COLUMN arrangement   text NOT NULL DEFAULT 'squares'
    CONSTRAINT planting_arrangement_known CHECK (arrangement IN ('squares', 'rows', 'staggered')),
  ADD COLUMN spacing_from  text NOT NULL DEFAULT 'count'
    CONSTRAINT planting_spacing_from_known CHECK (spacing_from IN ('count', 'figures', 'packet', 'hand')),
  ADD COLUMN in_row_mm     numeric(12,4) CONSTRAINT planting_in_row_sane CHECK (in_row_mm BETWEEN 5 AND 20000),
  ADD COLUMN row_mm        numeric(12,4) CONSTRAINT planting_row_sane CHECK (row_mm BETWEEN 5 AND 20000),
  ADD COLUMN sow_mm        numeric(12,4) CONSTRAINT planting_sow_sane CHECK (sow_mm BETWEEN 1 AND 20000),
  ADD COLUMN edge_mm       numeric(12,4) CONSTRAINT planting_edge_sane CHECK (edge_mm BETWEEN 0 AND 5000),
  ADD COLUMN wanted        integer CONSTRAINT planting_wanted_sane CHECK (wanted BETWEEN 1 AND 20000),
  ADD COLUMN with_others   boolean NOT NULL DEFAULT false;

-- Plants that nobody sowed, where they were found; without a name until somebody knows it.
CREATE TABLE found_plant (
  school_id  uuid NOT NULL,
  id         uuid NOT NULL,
  bed_id     uuid NOT NULL,
  x_mm       numeric(12,4) NOT NULL,
  y_mm       numeric(12,4) NOT NULL,
  width_mm   numeric(12,4) NOT NULL,
  name       text NOT NULL DEFAULT '' CONSTRAINT found_plant_name_length CHECK (length(name) <= 80),
  found_on   date NOT NULL,
  gone_on    date,
  intent     text NOT NULL DEFAULT 'undecided' CONSTRAINT found_plant_intent_known CHECK (intent IN ('undecided', 'keep', 'weed out')),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  CONSTRAINT found_plant_size_sane CHECK (width_mm > 0 AND width_mm <= 10000 AND x_mm >= 0 AND y_mm >= 0),
  CONSTRAINT found_plant_gone_later CHECK (gone_on >= found_on)
);

-- Redo needs what undo took away. What was undone before a new command cannot be done again: it is void.
ALTER TABLE change
  ADD COLUMN after  jsonb,
  ADD COLUMN void   boolean NOT NULL DEFAULT false;

CREATE TABLE soil_test (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  bed_id      uuid NOT NULL,
  taken_on    date NOT NULL,
  laboratory  text NOT NULL DEFAULT '' CONSTRAINT soil_test_laboratory_length CHECK (length(laboratory) <= 80),
  ph          numeric(3,1) CONSTRAINT soil_test_ph_sane CHECK (ph BETWEEN 2 AND 12),
  nitrogen    text NOT NULL DEFAULT '' CONSTRAINT soil_test_n_known CHECK (nitrogen IN ('', 'low', 'middling', 'high')),
  phosphorus  text NOT NULL DEFAULT '' CONSTRAINT soil_test_p_known CHECK (phosphorus IN ('', 'low', 'middling', 'high')),
  potassium   text NOT NULL DEFAULT '' CONSTRAINT soil_test_k_known CHECK (potassium IN ('', 'low', 'middling', 'high')),
  texture     text NOT NULL DEFAULT '' CONSTRAINT soil_test_texture_length CHECK (length(texture) <= 40),
  drainage    text NOT NULL DEFAULT '' CONSTRAINT soil_test_drainage_known CHECK (drainage IN ('', 'slow', 'good', 'fast')),
  lead_ppm    numeric(8,1) CONSTRAINT soil_test_lead_sane CHECK (lead_ppm BETWEEN 0 AND 1000000),
  advice      text NOT NULL DEFAULT '' CONSTRAINT soil_test_advice_length CHECK (length(advice) <= 1000),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id)
);

CREATE TABLE amendment (
  school_id  uuid NOT NULL,
  id         uuid NOT NULL,
  bed_id     uuid NOT NULL,
  on_day     date NOT NULL,
  kind       text NOT NULL CONSTRAINT amendment_kind_known CHECK (kind IN ('compost', 'composted manure', 'raw manure', 'fertiliser',
               'lime', 'sulphur', 'mulch', 'leaf mould', 'soil', 'other')),
  litres     numeric(10,2) CONSTRAINT amendment_litres_sane CHECK (litres > 0 AND litres <= 100000),
  grams      numeric(12,2) CONSTRAINT amendment_grams_sane CHECK (grams > 0 AND grams <= 10000000),
  label      text NOT NULL DEFAULT '' CONSTRAINT amendment_label_length CHECK (length(label) <= 120),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id)
);

-- What is in the shed and what a thing costs: tools by number, materials by their unit. `name` is what the shopping list calls it.
CREATE TABLE supply (
  school_id    uuid NOT NULL REFERENCES school (id),
  id           uuid NOT NULL,
  kind         text NOT NULL CONSTRAINT supply_kind_known CHECK (kind IN ('tool', 'material')),
  name         text NOT NULL CONSTRAINT supply_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  unit         text NOT NULL DEFAULT '' CONSTRAINT supply_unit_length CHECK (length(unit) <= 30),
  have         numeric(10,2) NOT NULL DEFAULT 0 CONSTRAINT supply_have_sane CHECK (have BETWEEN 0 AND 1000000),
  price_minor  integer CONSTRAINT supply_price_sane CHECK (price_minor BETWEEN 0 AND 100000000),
  PRIMARY KEY (school_id, id),
  CONSTRAINT supply_name_once UNIQUE (school_id, name)
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['section', 'bed_closure', 'found_plant', 'soil_test', 'amendment', 'supply'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
