-- The same days are closed once, also when two close them at the same moment. Where that has happened the first closing stays.
CREATE SCHEMA IF NOT EXISTS extensions;
CREATE EXTENSION IF NOT EXISTS btree_gist SCHEMA extensions;

UPDATE closed_time b SET reopened_on = b.closed_on, reopened_at = b.closed_at, why = 'closed twice at the same moment'
WHERE b.reopened_at IS NULL AND EXISTS (
  SELECT FROM closed_time a
  WHERE a.school_id = b.school_id AND a.reopened_at IS NULL AND (a.closed_at, a.id) < (b.closed_at, b.id)
    AND daterange(a.from_day, a.to_day, '[]') && daterange(b.from_day, b.to_day, '[]'));

ALTER TABLE closed_time ADD CONSTRAINT closed_time_once EXCLUDE USING gist (
  school_id extensions.gist_uuid_ops WITH =, daterange(from_day, to_day, '[]') WITH &&) WHERE (reopened_at IS NULL);
