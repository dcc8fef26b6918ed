-- What is shown to others: PDFs made in the background, letters to a class, signs whose page tells what grows here.
CREATE TABLE print_job (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          uuid NOT NULL,
  title       text NOT NULL CONSTRAINT print_job_title_given CHECK (title ~ '\S' AND length(title) <= 120),
  html        text NOT NULL CONSTRAINT print_job_size CHECK (length(html) <= 8000000),
  pdf         bytea,
  pages       integer,
  problem     text NOT NULL DEFAULT '',
  made_by     uuid REFERENCES account (id),
  asked_at    timestamptz NOT NULL DEFAULT now(),
  made_at     timestamptz,
  PRIMARY KEY (school_id, id)
);

-- A letter is kept as it was sent. Its address holds a secret of which only the hash is here.
CREATE TABLE letter (
  school_id       uuid NOT NULL REFERENCES school (id),
  id              uuid NOT NULL,
  class_group_id  uuid NOT NULL,
  from_day        date NOT NULL,
  to_day          date NOT NULL,
  content         jsonb NOT NULL CONSTRAINT letter_size CHECK (length(content::text) <= 200000),
  photos          uuid[] NOT NULL DEFAULT '{}' CONSTRAINT letter_photos_few CHECK (cardinality(photos) <= 12),
  token_hash      bytea NOT NULL CONSTRAINT letter_token_once UNIQUE,
  expires_at      timestamptz NOT NULL,
  made_by         uuid REFERENCES account (id),
  made_at         timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE,
  CONSTRAINT letter_in_order CHECK (to_day >= from_day)
);

-- The code on a sign; its page is there for everybody while it is shown, for the garden's own people always.
CREATE TABLE sign (
  school_id   uuid NOT NULL REFERENCES school (id),
  code        text NOT NULL CONSTRAINT sign_code_shape CHECK (code ~ '^[2-9a-hjkmnp-z]{8}$'),
  kind        text NOT NULL CONSTRAINT sign_kind_known CHECK (kind IN ('garden', 'bed', 'planting', 'station')),
  subject_id  uuid NOT NULL,
  shown       boolean NOT NULL DEFAULT false,
  made_at     timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, code),
  CONSTRAINT sign_code_once UNIQUE (code),
  CONSTRAINT sign_of_subject UNIQUE (school_id, kind, subject_id)
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['print_job', 'letter', 'sign'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;

-- Which school a code belongs to; what it shows is read in that school's own transaction.
CREATE FUNCTION open_letter(secret bytea) RETURNS TABLE (school_id uuid, letter_id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT l.school_id, l.id FROM letter l WHERE l.token_hash = secret AND l.expires_at > now()
$$;
CREATE FUNCTION open_sign(given text) RETURNS TABLE (school_id uuid, kind text, subject_id uuid, shown boolean)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT s.school_id, s.kind, s.subject_id, s.shown FROM sign s WHERE s.code = given
$$;
