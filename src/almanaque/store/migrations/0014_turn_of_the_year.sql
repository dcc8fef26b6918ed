-- The turn of the year: what is done step by step, a sentence for each bed, the book closed and reopened, and classes' votes for the next
-- season. What lies in a closed time is read-only; what a phone noted before the close still enters, marked as late.
CREATE TABLE turn_step (
  school_id       uuid NOT NULL,
  school_year_id  uuid NOT NULL,
  step            text NOT NULL CONSTRAINT turn_step_known CHECK (step IN ('plantings', 'beds', 'seed', 'book', 'groups', 'calendar', 'map')),
  done_on         date NOT NULL,
  done_by         uuid REFERENCES account (id),
  PRIMARY KEY (school_id, school_year_id, step),
  FOREIGN KEY (school_id, school_year_id) REFERENCES school_year (school_id, id) ON DELETE CASCADE
);

CREATE TABLE bed_year (
  school_id       uuid NOT NULL,
  school_year_id  uuid NOT NULL,
  bed_id          uuid NOT NULL,
  state           text NOT NULL DEFAULT '' CONSTRAINT bed_year_state_known CHECK (state IN ('', 'cleared', 'cleared and covered', 'kept as it stands')),
  sentence        text NOT NULL DEFAULT '' CONSTRAINT bed_year_sentence_length CHECK (length(sentence) <= 600),
  PRIMARY KEY (school_id, school_year_id, bed_id),
  FOREIGN KEY (school_id, school_year_id) REFERENCES school_year (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id)
);

-- A time whose book is closed, from and to a day; reopened it stays on record.
CREATE TABLE closed_time (
  school_id       uuid NOT NULL REFERENCES school (id),
  id              uuid NOT NULL,
  school_year_id  uuid NOT NULL,
  from_day        date NOT NULL,
  to_day          date NOT NULL,
  closed_on       date NOT NULL,
  closed_at       timestamptz NOT NULL,
  closed_by       uuid REFERENCES account (id),
  reopened_on     date,
  reopened_at     timestamptz,
  reopened_by     uuid REFERENCES account (id),
  why             text NOT NULL DEFAULT '' CONSTRAINT closed_time_why_length CHECK (length(why) <= 200),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, school_year_id) REFERENCES school_year (school_id, id),
  CONSTRAINT closed_time_in_order CHECK (to_day >= from_day),
  CONSTRAINT closed_time_reopened_with_reason CHECK ((reopened_at IS NULL) = (why = ''))
);

CREATE TABLE ballot (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          uuid NOT NULL,
  name        text NOT NULL CONSTRAINT ballot_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  from_day    date NOT NULL,
  to_day      date NOT NULL,
  closed_on   date,
  created_at  timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  CONSTRAINT ballot_in_order CHECK (to_day >= from_day)
);

CREATE TABLE ballot_crop (
  school_id  uuid NOT NULL,
  ballot_id  uuid NOT NULL,
  crop       text NOT NULL CONSTRAINT ballot_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  why        text NOT NULL DEFAULT '' CONSTRAINT ballot_crop_why_length CHECK (length(why) <= 200),
  PRIMARY KEY (school_id, ballot_id, crop),
  FOREIGN KEY (school_id, ballot_id) REFERENCES ballot (school_id, id) ON DELETE CASCADE
);

-- How many of a class raised their hand for a crop.
CREATE TABLE vote (
  school_id       uuid NOT NULL,
  ballot_id       uuid NOT NULL,
  class_group_id  uuid NOT NULL,
  crop            text NOT NULL,
  votes           integer NOT NULL CONSTRAINT vote_count_sane CHECK (votes BETWEEN 0 AND 500),
  PRIMARY KEY (school_id, ballot_id, class_group_id, crop),
  FOREIGN KEY (school_id, ballot_id, crop) REFERENCES ballot_crop (school_id, ballot_id, crop) ON DELETE CASCADE,
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE
);

ALTER TABLE harvest ADD COLUMN late boolean NOT NULL DEFAULT false;
ALTER TABLE journal_entry ADD COLUMN late boolean NOT NULL DEFAULT false;
ALTER TABLE sighting ADD COLUMN late boolean NOT NULL DEFAULT false;
ALTER TABLE photo ADD COLUMN late boolean NOT NULL DEFAULT false;

-- Refuses to write what lies in a closed time, by the column that is named; lets late notes in and marks them where there is a mark.
CREATE FUNCTION keep_closed_years() RETURNS trigger LANGUAGE plpgsql SET search_path = pg_catalog, public AS $$
DECLARE
  found jsonb;
  shut  boolean := false;
BEGIN
  FOREACH found IN ARRAY CASE TG_OP WHEN 'INSERT' THEN ARRAY[to_jsonb(NEW)] WHEN 'DELETE' THEN ARRAY[to_jsonb(OLD)] ELSE ARRAY[to_jsonb(OLD), to_jsonb(NEW)] END LOOP
    shut := shut OR EXISTS (
      SELECT FROM closed_time c WHERE c.school_id = (found ->> 'school_id')::uuid AND c.reopened_at IS NULL
        AND (found ->> TG_ARGV[0])::date BETWEEN c.from_day AND c.to_day);
  END LOOP;
  IF shut AND coalesce(current_setting('almanaque.late', true), '') = 'whole' THEN
    RETURN CASE TG_OP WHEN 'DELETE' THEN OLD ELSE NEW END;
  END IF;
  IF shut AND TG_OP = 'INSERT' AND coalesce(current_setting('almanaque.late', true), '') = 'on' THEN
    IF to_jsonb(NEW) ? 'late' THEN
      NEW := jsonb_populate_record(NEW, '{"late": true}');
    END IF;
    RETURN NEW;
  END IF;
  IF shut THEN
    RAISE EXCEPTION 'the year is closed' USING ERRCODE = 'check_violation', CONSTRAINT = 'closed_year';
  END IF;
  RETURN CASE TG_OP WHEN 'DELETE' THEN OLD ELSE NEW END;
END $$;

CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON harvest FOR EACH ROW EXECUTE FUNCTION keep_closed_years('picked_on');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON journal_entry FOR EACH ROW EXECUTE FUNCTION keep_closed_years('noted_on');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON sighting FOR EACH ROW EXECUTE FUNCTION keep_closed_years('noted_on');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON photo FOR EACH ROW EXECUTE FUNCTION keep_closed_years('noted_on');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON event FOR EACH ROW EXECUTE FUNCTION keep_closed_years('on_day');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON tasting FOR EACH ROW EXECUTE FUNCTION keep_closed_years('on_day');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON ledger_entry FOR EACH ROW EXECUTE FUNCTION keep_closed_years('on_day');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON amendment FOR EACH ROW EXECUTE FUNCTION keep_closed_years('on_day');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON soil_test FOR EACH ROW EXECUTE FUNCTION keep_closed_years('taken_on');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON station_reading FOR EACH ROW EXECUTE FUNCTION keep_closed_years('on_day');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON lesson_held FOR EACH ROW EXECUTE FUNCTION keep_closed_years('on_day');

-- Files of the past that are looked at before they come in: pickings and plantings of earlier years.
ALTER TABLE upload DROP CONSTRAINT upload_purpose_known;
ALTER TABLE upload ADD CONSTRAINT upload_purpose_known CHECK (purpose IN ('calendar', 'weather', 'pickings', 'plantings'));

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['turn_step', 'bed_year', 'closed_time', 'ballot', 'ballot_crop', 'vote'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
