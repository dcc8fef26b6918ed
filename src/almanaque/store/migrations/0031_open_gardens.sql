-- The whole garden on a page for those who are away, by a link; what comes back from home; drafts of letters; letters to all.

-- Its address holds a secret of which only the hash is here. The page itself is made anew whenever it is read.
CREATE TABLE open_garden (
  school_id       uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  id              uuid NOT NULL,
  audience        text NOT NULL CONSTRAINT open_garden_audience_known CHECK (audience IN ('class', 'families', 'everybody', 'partners')),
  class_group_id  uuid,
  greeting        text NOT NULL DEFAULT '' CONSTRAINT open_garden_greeting_length CHECK (length(greeting) <= 2000),
  from_day        date NOT NULL,
  tasks           jsonb NOT NULL DEFAULT '{}' CONSTRAINT open_garden_tasks_size CHECK (length(tasks::text) <= 20000),  -- key of a task by bed
  photos          uuid[] NOT NULL DEFAULT '{}' CONSTRAINT open_garden_photos_few CHECK (cardinality(photos) <= 40),
  token_hash      bytea NOT NULL CONSTRAINT open_garden_token_once UNIQUE,
  until           date NOT NULL,
  expires_at      timestamptz NOT NULL,
  ended_at        timestamptz,
  made_by         uuid REFERENCES account (id),
  made_at         timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE,
  CONSTRAINT open_garden_class_named CHECK (audience <> 'class' OR class_group_id IS NOT NULL)
);
SELECT give_wall('open_garden');

-- What somebody at home did of a task: held until an educator lets it in. `reader` tells browsers apart and nobody's name.
CREATE TABLE home_answer (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  open_garden_id  uuid NOT NULL,
  bed_id          uuid,
  task            text NOT NULL CONSTRAINT home_answer_task_length CHECK (length(task) BETWEEN 1 AND 40),
  reader          bytea NOT NULL CONSTRAINT home_answer_reader_size CHECK (length(reader) = 32),
  done            boolean NOT NULL DEFAULT false,
  counted         numeric(10, 2) CONSTRAINT home_answer_count_sane CHECK (counted BETWEEN 0 AND 100000),
  vote            text NOT NULL DEFAULT '' CONSTRAINT home_answer_vote_length CHECK (length(vote) <= 60),
  line            text NOT NULL DEFAULT '' CONSTRAINT home_answer_line_length CHECK (length(line) <= 300),
  picture         bytea,
  small           bytea,
  width           integer,
  height          integer,
  sent_on         date NOT NULL,
  sent_at         timestamptz NOT NULL DEFAULT now(),
  let_in_at       timestamptz,
  let_in_by       uuid REFERENCES account (id),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, open_garden_id) REFERENCES open_garden (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id) ON DELETE SET NULL (bed_id),
  CONSTRAINT home_answer_once UNIQUE NULLS NOT DISTINCT (school_id, open_garden_id, bed_id, task, reader)
);
CREATE INDEX home_answer_held ON home_answer (school_id, sent_at) WHERE let_in_at IS NULL;
SELECT give_wall('home_answer');

CREATE FUNCTION open_garden_by(secret bytea) RETURNS TABLE (school_id uuid, open_garden_id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT o.school_id, o.id FROM public.open_garden o WHERE o.token_hash = secret AND o.expires_at > now() AND o.ended_at IS NULL
$$;

-- A letter that is not finished: the form as it stands.
CREATE TABLE letter_draft (
  school_id   uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  id          uuid NOT NULL,
  form        jsonb NOT NULL CONSTRAINT letter_draft_size CHECK (length(form::text) <= 60000),
  made_by     uuid REFERENCES account (id),
  changed_at  timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id)
);
SELECT give_wall('letter_draft');

ALTER TABLE letter ALTER COLUMN class_group_id DROP NOT NULL;  -- none: to all

ALTER TABLE audit_entry DROP CONSTRAINT audit_entry_what_known;
ALTER TABLE audit_entry ADD CONSTRAINT audit_entry_what_known CHECK (what IN
  ('login', 'login from new browser', 'password changed', 'second step on', 'second step off', 'recovery code used',
   'recovery link made', 'recovery link used', 'session ended', 'invited', 'invitation taken back', 'joined', 'role changed', 'let go',
   'erased', 'pass made', 'pass taken back', 'exported', 'restored', 'calendar address made', 'letter published',
   'open garden published', 'open garden ended'));
