-- A weather station that is asked for its readings, what it said that cannot be, and mail that tells of frost, heat and rain.
ALTER TABLE school ADD COLUMN mail_to text NOT NULL DEFAULT '' CONSTRAINT school_mail_to_length CHECK (length(mail_to) <= 400);

ALTER TABLE weather_source
  ADD COLUMN device       text NOT NULL DEFAULT '' CONSTRAINT weather_source_device_shape CHECK (device ~ '^[A-Za-z0-9-]{0,64}$'),
  ADD COLUMN asked_at     timestamptz,
  ADD COLUMN answered_at  timestamptz,
  ADD COLUMN problem      text NOT NULL DEFAULT '' CONSTRAINT weather_source_problem_length CHECK (length(problem) <= 300);

CREATE TABLE weather_doubt (
  school_id  uuid NOT NULL,
  source     text NOT NULL,
  day        date NOT NULL,
  what       text NOT NULL CONSTRAINT weather_doubt_what_known CHECK (what IN ('day', 'tmin_c', 'tmax_c', 'rain_mm', 'wind_ms')),
  value      text NOT NULL CONSTRAINT weather_doubt_value_length CHECK (length(value) <= 40),
  why        text NOT NULL CONSTRAINT weather_doubt_why_length CHECK (length(why) <= 200),
  noted_at   timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, source, day, what),
  FOREIGN KEY (school_id, source) REFERENCES weather_source (school_id, name) ON UPDATE CASCADE ON DELETE CASCADE
);

-- Mail waits here until it was handed over; what is said twice under one key is said once.
CREATE TABLE mail (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  key        text NOT NULL CONSTRAINT mail_key_length CHECK (length(key) <= 120),
  mail_to    text NOT NULL CONSTRAINT mail_to_given CHECK (mail_to ~ '\S' AND length(mail_to) <= 400),
  subject    text NOT NULL CONSTRAINT mail_subject_given CHECK (subject ~ '\S' AND length(subject) <= 200),
  body       text NOT NULL CONSTRAINT mail_body_length CHECK (length(body) <= 8000),
  made_at    timestamptz NOT NULL DEFAULT now(),
  sent_at    timestamptz,
  problem    text NOT NULL DEFAULT '',
  PRIMARY KEY (school_id, id),
  CONSTRAINT mail_once UNIQUE (school_id, key)
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['weather_doubt', 'mail'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;

-- Which schools the worker has to go round; what it does there it does in each school's own transaction.
CREATE FUNCTION all_schools() RETURNS TABLE (school_id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$ SELECT id FROM school ORDER BY created_at, id $$;
