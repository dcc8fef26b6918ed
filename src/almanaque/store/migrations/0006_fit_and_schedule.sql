-- The heart: by which practice a crop is ripe, in how many years a plan fits, covers over a planting, steps set by hand, sowings in
-- a row, themes over several beds, beds promised for the summer, and a school's own crops, varieties and figures.
ALTER TABLE school
  ADD COLUMN ready_by text NOT NULL DEFAULT 'warmth' CONSTRAINT school_ready_by_known CHECK (ready_by IN ('warmth', 'packet')),
  ADD COLUMN moon     boolean NOT NULL DEFAULT false;

ALTER TABLE forecast
  ADD COLUMN fit_years integer NOT NULL DEFAULT 0 CONSTRAINT forecast_fit_years_sane CHECK (fit_years >= 0),
  ADD COLUMN of_years  integer NOT NULL DEFAULT 0 CONSTRAINT forecast_of_years_sane CHECK (of_years >= fit_years);

-- A theme is one dish or story that several beds and groups grow their parts of, ready on one day.
CREATE TABLE theme (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  name       text NOT NULL CONSTRAINT theme_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  ready_on   date NOT NULL,
  note       text NOT NULL DEFAULT '' CONSTRAINT theme_note_length CHECK (length(note) <= 400),
  PRIMARY KEY (school_id, id)
);

-- `series_id` binds sowings that follow one another; `cover` lies over this planting alone.
ALTER TABLE planting
  ADD COLUMN cover      text CONSTRAINT planting_cover_known CHECK (cover IN ('row cover', 'tunnel', 'frame')),
  ADD COLUMN series_id  uuid,
  ADD COLUMN theme_id   uuid,
  ADD CONSTRAINT planting_theme FOREIGN KEY (school_id, theme_id) REFERENCES theme (school_id, id) ON DELETE SET NULL (theme_id);

-- The day somebody set for a step by hand; the rules leave it there.
CREATE TABLE step_day (
  school_id    uuid NOT NULL,
  planting_id  uuid NOT NULL,
  step         text NOT NULL CONSTRAINT step_day_step_given CHECK (step ~ '\S' AND length(step) <= 40),
  on_day       date NOT NULL,
  PRIMARY KEY (school_id, planting_id, step),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE
);

-- A bed that must be free from a day on, for what is to grow there in summer.
CREATE TABLE bed_promise (
  school_id  uuid NOT NULL,
  id         uuid NOT NULL,
  bed_id     uuid NOT NULL,
  from_day   date NOT NULL,
  what_for   text NOT NULL CONSTRAINT bed_promise_what_given CHECK (what_for ~ '\S' AND length(what_for) <= 120),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  CONSTRAINT bed_promise_once UNIQUE (school_id, bed_id, from_day)
);

-- A school's own figures for a crop of the catalogue; with `based_on` a variety or crop of its own that begins from another's.
CREATE TABLE own_crop (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  crop       text NOT NULL CONSTRAINT own_crop_key_shape CHECK (crop ~ '^[a-z0-9-]{2,60}$'),
  based_on   text CONSTRAINT own_crop_base_shape CHECK (based_on ~ '^[a-z0-9-]{2,60}$'),
  figures    jsonb NOT NULL DEFAULT '{}',
  note       text NOT NULL DEFAULT '' CONSTRAINT own_crop_note_length CHECK (length(note) <= 200),
  PRIMARY KEY (school_id, id),
  CONSTRAINT own_crop_once UNIQUE (school_id, crop)
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['theme', 'step_day', 'bed_promise', 'own_crop'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
