-- Outdoors: water (by which school, how fast the hose runs, what a bottle holds, a bed's drip line), carers' rounds (how many a
-- week while school is closed, who has taken one), how a planting day came out, what became of a job,
-- lessons of a school's own and those that were held.
ALTER TABLE school
  ADD COLUMN water_by       text NOT NULL DEFAULT 'inch' CONSTRAINT school_water_by_known CHECK (water_by IN ('inch', 'use')),
  ADD COLUMN hose_l_min     numeric(8,3) CONSTRAINT school_hose_sane CHECK (hose_l_min > 0),
  ADD COLUMN bottle_l       numeric(8,3) CONSTRAINT school_bottle_sane CHECK (bottle_l > 0),
  ADD COLUMN rounds_a_week  integer NOT NULL DEFAULT 2 CONSTRAINT school_rounds_sane CHECK (rounds_a_week BETWEEN 1 AND 7);

ALTER TABLE bed ADD COLUMN drip_l_h numeric(9,3) CONSTRAINT bed_drip_sane CHECK (drip_l_h > 0);

-- A job that is partly done stays open; what is left of it comes again.
ALTER TABLE task
  ADD COLUMN part_done_on   date,
  ADD COLUMN minutes_taken  integer CONSTRAINT task_minutes_taken_sane CHECK (minutes_taken BETWEEN 0 AND 1000),
  ADD COLUMN amount         text NOT NULL DEFAULT '' CONSTRAINT task_amount_length CHECK (length(amount) <= 80),
  ADD COLUMN note           text NOT NULL DEFAULT '' CONSTRAINT task_note_length CHECK (length(note) <= 400);

-- A round is known by its week and number; a row is there once somebody has taken it.
CREATE TABLE carer_round (
  school_id  uuid NOT NULL REFERENCES school (id),
  week       date NOT NULL CONSTRAINT carer_round_on_monday CHECK (extract(isodow FROM week) = 1),
  ordinal    integer NOT NULL CONSTRAINT carer_round_ordinal_sane CHECK (ordinal BETWEEN 1 AND 7),
  taken_by   text NOT NULL CONSTRAINT carer_round_by_given CHECK (taken_by ~ '\S' AND length(taken_by) <= 80),
  pass_id    uuid,
  done_on    date,
  PRIMARY KEY (school_id, week, ordinal),
  CONSTRAINT carer_round_pass FOREIGN KEY (school_id, pass_id) REFERENCES garden_pass (school_id, id)
);

-- How many plants really went in, how many were left over, and distances measured between some of them.
CREATE TABLE planted (
  school_id    uuid NOT NULL,
  planting_id  uuid NOT NULL,
  plants       integer NOT NULL CONSTRAINT planted_plants_sane CHECK (plants BETWEEN 0 AND 100000),
  left_over    integer CONSTRAINT planted_left_over_sane CHECK (left_over BETWEEN 0 AND 100000),
  apart_mm     numeric(12,4)[] NOT NULL DEFAULT '{}' CONSTRAINT planted_apart_few CHECK (cardinality(apart_mm) <= 20),
  PRIMARY KEY (school_id, planting_id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE
);

-- A lesson outline of the school's own, or its own version of one that ships with the application.
CREATE TABLE own_lesson (
  school_id  uuid NOT NULL REFERENCES school (id),
  key        text NOT NULL CONSTRAINT own_lesson_key_shape CHECK (key ~ '^[a-z0-9-]{2,60}$'),
  outline    jsonb NOT NULL CONSTRAINT own_lesson_size CHECK (length(outline::text) <= 20000),
  PRIMARY KEY (school_id, key)
);

-- Which class had which lesson, so that it is not offered again in the same school year.
CREATE TABLE lesson_held (
  school_id       uuid NOT NULL,
  lesson          text NOT NULL CONSTRAINT lesson_held_key_shape CHECK (lesson ~ '^[a-z0-9-]{2,60}$'),
  class_group_id  uuid NOT NULL,
  on_day          date NOT NULL,
  PRIMARY KEY (school_id, lesson, class_group_id, on_day),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['carer_round', 'planted', 'own_lesson', 'lesson_held'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
