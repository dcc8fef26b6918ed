-- The garden's own rows. Keys and foreign keys are (school_id, id), so no row can point into another school.
-- Lengths are millimetres, masses grams, temperatures degrees Celsius, rain millimetres.
CREATE TABLE school_year (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  name       text NOT NULL,
  starts     date NOT NULL,
  ends       date NOT NULL,
  PRIMARY KEY (school_id, id),
  CONSTRAINT school_year_ends_after_start CHECK (ends > starts AND ends - starts < 400),
  CONSTRAINT school_year_no_overlap EXCLUDE USING gist (school_id WITH =, daterange(starts, ends, '[]') WITH &&)
);

CREATE TABLE term (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  school_year_id  uuid NOT NULL,
  name            text NOT NULL CONSTRAINT term_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  starts          date NOT NULL,
  ends            date NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, school_year_id) REFERENCES school_year (school_id, id) ON DELETE CASCADE,
  CONSTRAINT term_ends_after_start CHECK (ends >= starts),
  CONSTRAINT term_no_overlap EXCLUDE USING gist
    (school_id WITH =, school_year_id WITH =, daterange(starts, ends, '[]') WITH &&)
);

-- A break of several days, or a single day on which the school is shut.
CREATE TABLE closure (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  school_year_id  uuid NOT NULL,
  name            text NOT NULL CONSTRAINT closure_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  starts          date NOT NULL,
  ends            date NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, school_year_id) REFERENCES school_year (school_id, id) ON DELETE CASCADE,
  CONSTRAINT closure_ends_after_start CHECK (ends >= starts),
  CONSTRAINT closure_no_overlap EXCLUDE USING gist
    (school_id WITH =, school_year_id WITH =, daterange(starts, ends, '[]') WITH &&)
);

-- A date the garden should serve: a soup day, the last day of school.
CREATE TABLE feast (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  school_year_id  uuid NOT NULL,
  name            text NOT NULL CONSTRAINT feast_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  on_day          date NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, school_year_id) REFERENCES school_year (school_id, id) ON DELETE CASCADE
);

-- Classes are known by year of entry, so they move up by themselves; clubs and mixed groups have none.
CREATE TABLE class_group (
  school_id    uuid NOT NULL REFERENCES school (id),
  id           uuid NOT NULL,
  name         text NOT NULL CONSTRAINT class_group_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  entry_year   integer,
  head_count   integer NOT NULL CONSTRAINT class_group_head_count_sane CHECK (head_count BETWEEN 1 AND 500),
  PRIMARY KEY (school_id, id)
);

CREATE TABLE slot (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  class_group_id  uuid NOT NULL,
  weekday         integer NOT NULL CONSTRAINT slot_weekday_known CHECK (weekday BETWEEN 0 AND 6),
  starts_at       time NOT NULL,
  minutes         integer NOT NULL CONSTRAINT slot_minutes_sane CHECK (minutes BETWEEN 5 AND 480),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE
);

CREATE TABLE site (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  name       text NOT NULL,
  width_mm   numeric(12,4) NOT NULL,
  depth_mm   numeric(12,4) NOT NULL,
  PRIMARY KEY (school_id, id),
  CONSTRAINT site_size_positive CHECK (width_mm > 0 AND depth_mm > 0)
);

-- Drawn on the map for orientation: building, tree, path, gate, tap. Dates say from when to when it stands.
CREATE TABLE feature (
  school_id  uuid NOT NULL,
  id         uuid NOT NULL,
  site_id    uuid NOT NULL,
  kind       text NOT NULL CONSTRAINT feature_kind_known CHECK (kind IN ('building', 'tree', 'path', 'gate', 'tap')),
  name       text NOT NULL,
  x_mm       numeric(12,4) NOT NULL,
  y_mm       numeric(12,4) NOT NULL,
  width_mm   numeric(12,4) NOT NULL,
  depth_mm   numeric(12,4) NOT NULL,
  from_day   date,
  to_day     date,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, site_id) REFERENCES site (school_id, id),
  CONSTRAINT feature_size_positive CHECK (width_mm > 0 AND depth_mm > 0),
  CONSTRAINT feature_ends_after_start CHECK (to_day >= from_day)
);

CREATE TABLE bed (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  site_id         uuid NOT NULL,
  ordinal         integer NOT NULL,
  name            text NOT NULL CONSTRAINT bed_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  purpose         text NOT NULL DEFAULT '',
  kind            text NOT NULL CONSTRAINT bed_kind_known CHECK (kind IN ('raised', 'container', 'ground')),
  material        text NOT NULL DEFAULT '',
  built_year      integer,
  x_mm            numeric(12,4) NOT NULL,
  y_mm            numeric(12,4) NOT NULL,
  length_mm       numeric(12,4) NOT NULL,
  width_mm        numeric(12,4) NOT NULL,
  depth_mm        numeric(12,4) NOT NULL,
  cell_mm         numeric(12,4) NOT NULL,
  class_group_id  uuid,
  version         integer NOT NULL DEFAULT 1,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, site_id) REFERENCES site (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id),
  CONSTRAINT bed_size_positive CHECK (length_mm > 0 AND width_mm > 0 AND depth_mm > 0),
  CONSTRAINT bed_size_sane CHECK (length_mm <= 100000 AND width_mm <= 100000 AND depth_mm <= 3000),
  CONSTRAINT bed_cell_sane CHECK (cell_mm BETWEEN 50 AND 2000)
);

-- Part of a bed that something lasting holds, so that the bed to plan is what is left.
CREATE TABLE kept_part (
  school_id  uuid NOT NULL,
  id         uuid NOT NULL,
  bed_id     uuid NOT NULL,
  label      text NOT NULL,
  x_mm       numeric(12,4) NOT NULL,
  y_mm       numeric(12,4) NOT NULL,
  length_mm  numeric(12,4) NOT NULL,
  width_mm   numeric(12,4) NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  CONSTRAINT kept_part_size_positive CHECK (length_mm > 0 AND width_mm > 0 AND x_mm >= 0 AND y_mm >= 0)
);

CREATE TABLE draft (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  name       text NOT NULL CONSTRAINT draft_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  PRIMARY KEY (school_id, id)
);

CREATE TABLE planting (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  bed_id          uuid NOT NULL,
  crop            text NOT NULL,
  variety         text NOT NULL DEFAULT '',
  status          text NOT NULL CONSTRAINT planting_status_known
                    CHECK (status IN ('pencilled', 'planned', 'in the ground', 'finished', 'lost')),
  draft_id        uuid,
  method          text NOT NULL CONSTRAINT planting_method_known CHECK (method IN ('direct', 'indoors', 'starts', 'cloves')),
  start_on        date NOT NULL,
  per_square      integer CONSTRAINT planting_per_square_sane CHECK (per_square BETWEEN 1 AND 400),
  class_group_id  uuid,
  created_at      timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  FOREIGN KEY (school_id, draft_id) REFERENCES draft (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id),
  CONSTRAINT planting_pencil_in_draft CHECK (status <> 'pencilled' OR draft_id IS NOT NULL)
);
CREATE INDEX planting_by_bed ON planting (school_id, bed_id);

-- The part of a bed that a planting takes: whole squares for now, any rectangle later.
CREATE TABLE patch (
  school_id    uuid NOT NULL,
  planting_id  uuid NOT NULL,
  col          integer NOT NULL,
  row          integer NOT NULL,
  PRIMARY KEY (school_id, planting_id, col, row),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE,
  CONSTRAINT patch_inside CHECK (col >= 0 AND row >= 0)
);

-- What really happened to a planting. Never overwritten by a forecast.
CREATE TABLE event (
  school_id    uuid NOT NULL,
  id           uuid NOT NULL,
  planting_id  uuid NOT NULL,
  kind         text NOT NULL CONSTRAINT event_kind_known
                 CHECK (kind IN ('started', 'emerged', 'set out', 'first picking', 'cleared', 'lost')),
  on_day       date NOT NULL,
  noted_by     uuid REFERENCES account (id),
  noted_at     timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id),
  CONSTRAINT event_once UNIQUE (school_id, planting_id, kind)
);

-- Dates that follow from the rules, with the hash of what they depend on.
CREATE TABLE forecast (
  school_id         uuid NOT NULL,
  planting_id       uuid NOT NULL,
  depends_on        text NOT NULL,
  bed_from          date NOT NULL,
  emerge_from       date,
  emerge_to         date,
  first_pick_early  date NOT NULL,
  first_pick        date NOT NULL,
  first_pick_late   date NOT NULL,
  last_pick         date NOT NULL,
  clear_by          date NOT NULL,
  verdict           text NOT NULL CONSTRAINT forecast_verdict_known CHECK (verdict IN ('fits', 'with care', 'misses')),
  findings          jsonb NOT NULL DEFAULT '[]',
  computed_at       timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, planting_id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE,
  CONSTRAINT forecast_dates_in_order CHECK (bed_from <= first_pick AND first_pick <= last_pick AND last_pick <= clear_by)
);

-- A job: a step of a planting, or a routine. (planting or routine, step, ordinal) is its identity, so that
-- recomputing never loses a finished or hand-set one.
CREATE TABLE task (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  planting_id     uuid,
  routine         text,
  step            text NOT NULL,
  ordinal         integer NOT NULL DEFAULT 1,
  bed_id          uuid,
  title           text NOT NULL CONSTRAINT task_title_given CHECK (title ~ '\S' AND length(title) <= 200),
  caution         text NOT NULL DEFAULT '',
  from_day        date NOT NULL,
  to_day          date NOT NULL,
  on_day          date,
  class_group_id  uuid,
  carer           boolean NOT NULL DEFAULT false,
  why             text NOT NULL DEFAULT '',
  minutes         integer NOT NULL CONSTRAINT task_minutes_sane CHECK (minutes BETWEEN 1 AND 480),
  status          text NOT NULL DEFAULT 'open' CONSTRAINT task_status_known
                    CHECK (status IN ('open', 'done', 'not needed')),
  done_on         date,
  done_by         uuid REFERENCES account (id),
  hand_set        boolean NOT NULL DEFAULT false,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id),
  CONSTRAINT task_window_in_order CHECK (to_day >= from_day),
  CONSTRAINT task_of_planting_or_routine CHECK ((planting_id IS NULL) <> (routine IS NULL)),
  CONSTRAINT task_done_has_day CHECK ((status = 'done') = (done_on IS NOT NULL))
);
CREATE UNIQUE INDEX task_identity ON task (school_id, coalesce(planting_id::text, routine), step, ordinal);
CREATE INDEX task_by_day ON task (school_id, on_day);

CREATE TABLE journal_entry (
  school_id    uuid NOT NULL,
  id           uuid NOT NULL,
  bed_id       uuid,
  planting_id  uuid,
  noted_on     date NOT NULL,
  body         text NOT NULL CONSTRAINT journal_entry_length CHECK (body ~ '\S' AND length(body) <= 4000),
  come_back_on date,
  closed_on    date,
  noted_by     uuid REFERENCES account (id),
  noted_at     timestamptz NOT NULL DEFAULT now(),
  received_at  timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE SET NULL (planting_id),
  CONSTRAINT journal_entry_comes_back_later CHECK (come_back_on > noted_on)
);
CREATE INDEX journal_entry_by_day ON journal_entry (school_id, noted_on);

CREATE TABLE weather_day (
  school_id  uuid NOT NULL REFERENCES school (id),
  source     text NOT NULL,
  day        date NOT NULL,
  tmin_c     real NOT NULL,
  tmax_c     real NOT NULL,
  rain_mm    real NOT NULL,
  PRIMARY KEY (school_id, source, day),
  CONSTRAINT weather_day_sane CHECK (tmin_c <= tmax_c AND tmin_c > -70 AND tmax_c < 60 AND rain_mm >= 0)
);

CREATE TABLE harvest (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  planting_id     uuid NOT NULL,
  picked_on       date NOT NULL,
  part            text NOT NULL,
  amount          numeric(12,3) NOT NULL,
  unit            text NOT NULL,
  grams           numeric(12,2),
  estimated       boolean NOT NULL,
  class_group_id  uuid,
  note            text NOT NULL DEFAULT '' CONSTRAINT harvest_note_length CHECK (length(note) <= 1000),
  noted_by        uuid REFERENCES account (id),
  noted_at        timestamptz NOT NULL DEFAULT now(),
  received_at     timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id),
  CONSTRAINT harvest_amount_positive CHECK (amount > 0),
  CONSTRAINT harvest_grams_positive CHECK (grams > 0)
);
CREATE INDEX harvest_by_planting ON harvest (school_id, planting_id);

CREATE TABLE use_of_harvest (
  school_id   uuid NOT NULL,
  harvest_id  uuid NOT NULL,
  use         text NOT NULL CONSTRAINT use_of_harvest_known
                CHECK (use IN ('eaten in class', 'kitchen', 'taken home', 'given away', 'sold', 'kept as seed', 'compost', 'lost')),
  share       numeric(6,5) NOT NULL CONSTRAINT use_of_harvest_share_sane CHECK (share > 0 AND share <= 1),
  PRIMARY KEY (school_id, harvest_id, use),
  FOREIGN KEY (school_id, harvest_id) REFERENCES harvest (school_id, id) ON DELETE CASCADE
);

-- Who changed what. `before` and `after` let the last command on a bed be undone while its version still fits.
CREATE TABLE change (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  bed_id      uuid NOT NULL,
  command     text NOT NULL,
  before      jsonb NOT NULL,
  version     integer NOT NULL,
  account_id  uuid REFERENCES account (id),
  at          timestamptz NOT NULL DEFAULT now(),
  undone      boolean NOT NULL DEFAULT false,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id)
);
CREATE INDEX change_by_bed ON change (school_id, bed_id, version);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['school_year', 'term', 'closure', 'feast', 'class_group', 'slot', 'site', 'feature', 'bed',
      'kept_part', 'draft', 'planting', 'patch', 'event', 'forecast', 'task', 'journal_entry', 'weather_day', 'harvest',
      'use_of_harvest', 'change'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
