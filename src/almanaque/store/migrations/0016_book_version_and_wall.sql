-- What the book is made of changes a number that is read in one row, instead of five tables being added up for each page.
-- One function gives a new table of a school its wall, so that no later step copies it.

CREATE FUNCTION give_wall(VARIADIC names text[]) RETURNS void
LANGUAGE plpgsql SET search_path = pg_catalog, public AS $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY names LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format(
      'CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;

CREATE TABLE book_version (
  school_id  uuid PRIMARY KEY REFERENCES school (id) ON DELETE CASCADE,
  number     bigint NOT NULL
);
SELECT give_wall('book_version');

-- While a transaction has changed something, its own reading of the book is nobody else's.
CREATE FUNCTION book_is_changing() RETURNS trigger
LANGUAGE plpgsql SET search_path = pg_catalog, public AS $$
BEGIN
  PERFORM set_config('almanaque.book_changing', 'yes', true);
  RETURN NULL;
END $$;

-- At the end of the transaction, so that no writer waits for another while it still takes locks; once for a transaction.
CREATE FUNCTION book_has_changed() RETURNS trigger
LANGUAGE plpgsql SET search_path = pg_catalog, public AS $$
DECLARE
  school uuid := (CASE TG_OP WHEN 'DELETE' THEN to_jsonb(OLD) ELSE to_jsonb(NEW) END ->> 'school_id')::uuid;
BEGIN
  IF coalesce(current_setting('almanaque.book_counted', true), '') = school::text THEN
    RETURN NULL;
  END IF;
  INSERT INTO book_version AS known (school_id, number) VALUES (school, 1)
    ON CONFLICT (school_id) DO UPDATE SET number = known.number + 1;
  PERFORM set_config('almanaque.book_counted', school::text, true);
  RETURN NULL;
END $$;

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY[
    'harvest', 'use_of_harvest', 'curing', 'event', 'planting', 'forecast', 'forecast_made', 'bed'
  ] LOOP
    EXECUTE format(
      'CREATE TRIGGER book_is_changing AFTER INSERT OR UPDATE OR DELETE ON %I'
      ' FOR EACH STATEMENT EXECUTE FUNCTION book_is_changing()', name);
    EXECUTE format(
      'CREATE CONSTRAINT TRIGGER book_has_changed AFTER INSERT OR UPDATE OR DELETE ON %I'
      ' DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION book_has_changed()', name);
  END LOOP;
END $$;
