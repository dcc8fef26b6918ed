-- Stations beside the beds: routines, readings with limits, who looks after them when, supplies that run low.
CREATE TABLE station (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  kind       text NOT NULL CONSTRAINT station_kind_length CHECK (length(kind) <= 30),
  name       text NOT NULL CONSTRAINT station_name_given CHECK (name ~ '\S' AND length(name) <= 60),
  about      text NOT NULL DEFAULT '' CONSTRAINT station_about_length CHECK (length(about) <= 600),
  how_to     text NOT NULL DEFAULT '' CONSTRAINT station_how_to_length CHECK (length(how_to) <= 2000),
  caution    text NOT NULL DEFAULT '' CONSTRAINT station_caution_length CHECK (length(caution) <= 400),
  readings   jsonb NOT NULL DEFAULT '[]' CONSTRAINT station_readings_size CHECK (length(readings::text) <= 8000),
  asleep     integer[] NOT NULL DEFAULT '{}',
  photo_id   uuid,
  closed_on  date,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, photo_id) REFERENCES photo (school_id, id) ON DELETE SET NULL (photo_id)
);

CREATE TABLE station_routine (
  school_id   uuid NOT NULL,
  station_id  uuid NOT NULL,
  number      integer NOT NULL CONSTRAINT station_routine_few CHECK (number BETWEEN 1 AND 20),
  what        text NOT NULL CONSTRAINT station_routine_what_given CHECK (what ~ '\S' AND length(what) <= 120),
  every       text NOT NULL CONSTRAINT station_routine_every_known CHECK (every IN ('day', 'week', 'month')),
  minutes     integer NOT NULL CONSTRAINT station_routine_minutes_sane CHECK (minutes BETWEEN 1 AND 240),
  resting     boolean NOT NULL DEFAULT false,
  PRIMARY KEY (school_id, station_id, number),
  FOREIGN KEY (school_id, station_id) REFERENCES station (school_id, id) ON DELETE CASCADE
);

CREATE TABLE station_reading (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  station_id  uuid NOT NULL,
  name        text NOT NULL CONSTRAINT station_reading_name_length CHECK (length(name) <= 60),
  on_day      date NOT NULL,
  value       numeric(12,3),
  choice      text NOT NULL DEFAULT '' CONSTRAINT station_reading_choice_length CHECK (length(choice) <= 40),
  note        text NOT NULL DEFAULT '' CONSTRAINT station_reading_note_length CHECK (length(note) <= 400),
  noted_by    uuid REFERENCES account (id),
  noted_at    timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, station_id) REFERENCES station (school_id, id) ON DELETE CASCADE,
  CONSTRAINT station_reading_something CHECK (value IS NOT NULL OR choice <> '')
);
CREATE INDEX station_reading_by_day ON station_reading (school_id, station_id, on_day);

CREATE TABLE adoption (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  station_id      uuid NOT NULL,
  class_group_id  uuid NOT NULL,
  from_day        date NOT NULL,
  to_day          date NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, station_id) REFERENCES station (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE,
  CONSTRAINT adoption_in_order CHECK (to_day >= from_day)
);

ALTER TABLE supply
  ADD COLUMN low         numeric(10,2) CONSTRAINT supply_low_sane CHECK (low BETWEEN 0 AND 1000000),
  ADD COLUMN told        text NOT NULL DEFAULT '' CONSTRAINT supply_told_length CHECK (length(told) <= 80),
  ADD COLUMN station_id  uuid;
ALTER TABLE supply ADD CONSTRAINT supply_station FOREIGN KEY (school_id, station_id) REFERENCES station (school_id, id) ON DELETE SET NULL (station_id);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['station', 'station_routine', 'station_reading', 'adoption'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
