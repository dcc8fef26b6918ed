-- What the server itself did last: the nightly round, a backup. It belongs to no school and says nothing of any.
CREATE TABLE upkeep (
  what    text PRIMARY KEY,
  done_at timestamptz NOT NULL,
  detail  text NOT NULL DEFAULT '' CONSTRAINT upkeep_detail_length CHECK (length(detail) <= 300)
);

-- Mail that is refused is tried again later and later, and at last given up; it never holds up what comes after it.
ALTER TABLE mail
  ADD COLUMN tries integer NOT NULL DEFAULT 0 CONSTRAINT mail_tries_counted CHECK (tries BETWEEN 0 AND 100),
  ADD COLUMN next_try_at timestamptz,
  ADD COLUMN given_up_at timestamptz,
  ADD CONSTRAINT mail_sent_or_given_up CHECK (sent_at IS NULL OR given_up_at IS NULL);
CREATE INDEX mail_waiting ON mail (school_id, coalesce(next_try_at, made_at)) WHERE sent_at IS NULL AND given_up_at IS NULL;
