-- The journal outdoors: what is seen on a tour, remedies and whether they helped, photos, what a phone sent when it could,
-- plants that come from others, what becomes of a flower that fades; stages that move dates.
ALTER TABLE event DROP CONSTRAINT event_kind_known;
ALTER TABLE event ADD CONSTRAINT event_kind_known CHECK (
  kind IN ('started', 'emerged', 'set out', 'in flower', 'ready', 'first picking', 'bolted', 'cleared', 'lost'));

ALTER TABLE planting ADD COLUMN ending text NOT NULL DEFAULT ''
  CONSTRAINT planting_ending_known CHECK (ending IN ('', 'deadhead', 'seed'));

CREATE TABLE sighting (
  school_id     uuid NOT NULL REFERENCES school (id),
  id            uuid NOT NULL,
  kind          text NOT NULL CONSTRAINT sighting_kind_known CHECK (kind IN
                  ('stage', 'height', 'count', 'pest', 'disease', 'damage', 'flowers', 'visitors', 'nothing new')),
  bed_id        uuid,
  planting_id   uuid,
  square        text NOT NULL DEFAULT '' CONSTRAINT sighting_square_shape CHECK (square ~ '^([A-Z]{1,2}[0-9]{1,3})?$'),
  noted_on      date NOT NULL,
  what          text NOT NULL DEFAULT '' CONSTRAINT sighting_what_length CHECK (length(what) <= 60),
  part          text NOT NULL DEFAULT '' CONSTRAINT sighting_part_length CHECK (length(part) <= 30),
  severity      integer CONSTRAINT sighting_severity_sane CHECK (severity BETWEEN 1 AND 3),
  amount        numeric(12,4) CONSTRAINT sighting_amount_sane CHECK (amount BETWEEN 0 AND 100000),
  second        numeric(12,4) CONSTRAINT sighting_second_sane CHECK (second BETWEEN 0 AND 100000),
  of_amount     numeric(12,4) CONSTRAINT sighting_of_sane CHECK (of_amount BETWEEN 0 AND 100000),
  team          text NOT NULL DEFAULT '' CONSTRAINT sighting_team_length CHECK (length(team) <= 60),
  note          text NOT NULL DEFAULT '' CONSTRAINT sighting_note_length CHECK (length(note) <= 1000),
  follows       uuid,
  come_back_on  date,
  closed_on     date,
  noted_by      uuid REFERENCES account (id),
  noted_at      timestamptz NOT NULL DEFAULT now(),
  received_at   timestamptz NOT NULL DEFAULT clock_timestamp(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id),
  FOREIGN KEY (school_id, follows) REFERENCES sighting (school_id, id),
  CONSTRAINT sighting_comes_back_later CHECK (come_back_on > noted_on)
);
CREATE INDEX sighting_by_day ON sighting (school_id, noted_on);
CREATE INDEX sighting_by_planting ON sighting (school_id, planting_id);

CREATE TABLE remedy (
  school_id    uuid NOT NULL,
  id           uuid NOT NULL,
  sighting_id  uuid NOT NULL,
  what         text NOT NULL CONSTRAINT remedy_what_given CHECK (what ~ '\S' AND length(what) <= 80),
  applied_on   date NOT NULL,
  ask_on       date NOT NULL,
  outcome      text CONSTRAINT remedy_outcome_known CHECK (outcome IN ('helped', 'did not', 'cannot say')),
  answered_on  date,
  noted_by     uuid REFERENCES account (id),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, sighting_id) REFERENCES sighting (school_id, id) ON DELETE CASCADE,
  CONSTRAINT remedy_asked_later CHECK (ask_on > applied_on)
);

-- The picture as it is shown, re-encoded, and a small one; whatever else the camera wrote is gone.
CREATE TABLE photo (
  school_id    uuid NOT NULL REFERENCES school (id),
  id           uuid NOT NULL,
  bed_id       uuid,
  planting_id  uuid,
  noted_on     date NOT NULL,
  caption      text NOT NULL DEFAULT '' CONSTRAINT photo_caption_length CHECK (length(caption) <= 200),
  width        integer NOT NULL CONSTRAINT photo_width_sane CHECK (width BETWEEN 1 AND 4000),
  height       integer NOT NULL CONSTRAINT photo_height_sane CHECK (height BETWEEN 1 AND 4000),
  picture      bytea NOT NULL CONSTRAINT photo_size_sane CHECK (length(picture) <= 3000000),
  small        bytea NOT NULL,
  noted_by     uuid REFERENCES account (id),
  noted_at     timestamptz NOT NULL DEFAULT now(),
  received_at  timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id)
);
CREATE INDEX photo_by_day ON photo (school_id, noted_on);

-- What a phone has sent: the same id with the same words is taken once, however often and from wherever it comes. A question of
-- the tour that was answered today is not asked again today.
CREATE TABLE received (
  school_id    uuid NOT NULL REFERENCES school (id),
  id           uuid NOT NULL,
  kind         text NOT NULL CONSTRAINT received_kind_length CHECK (length(kind) <= 30),
  digest       text NOT NULL CONSTRAINT received_digest_shape CHECK (digest ~ '^[0-9a-f]{64}$'),
  account_id   uuid NOT NULL REFERENCES account (id),
  question     text NOT NULL DEFAULT '' CONSTRAINT received_question_length CHECK (length(question) <= 120),
  answer       text NOT NULL DEFAULT '' CONSTRAINT received_answer_length CHECK (length(answer) <= 40),
  noted_on     date NOT NULL,
  noted_at     timestamptz NOT NULL,
  received_at  timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id)
);
CREATE INDEX received_by_day ON received (school_id, noted_on);

-- Which planting another one came from: a division, runner, cane, cutting or offset.
CREATE TABLE lineage (
  school_id    uuid NOT NULL,
  planting_id  uuid NOT NULL,
  from_id      uuid NOT NULL,
  how          text NOT NULL CONSTRAINT lineage_how_known CHECK (how IN ('division', 'runner', 'cane', 'cutting', 'offset', 'own seed')),
  on_day       date NOT NULL,
  PRIMARY KEY (school_id, planting_id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, from_id) REFERENCES planting (school_id, id),
  CONSTRAINT lineage_of_another CHECK (planting_id <> from_id)
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['sighting', 'remedy', 'photo', 'received', 'lineage'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;
