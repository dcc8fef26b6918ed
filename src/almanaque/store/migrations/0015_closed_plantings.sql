-- A planting that was cleared or lost in a closed time stays as it stood, with its squares and days: the book divides by them.
CREATE FUNCTION keep_closed_plantings() RETURNS trigger LANGUAGE plpgsql SET search_path = pg_catalog, public AS $$
DECLARE
  found   jsonb := to_jsonb(CASE TG_OP WHEN 'INSERT' THEN NEW ELSE OLD END);
  pointed text[] := ARRAY['draft_id', 'series_id', 'theme_id'];  -- emptied when what they point to is taken out
BEGIN
  IF TG_OP = 'UPDATE' AND to_jsonb(OLD) - pointed = to_jsonb(NEW) - pointed THEN
    RETURN NEW;
  END IF;
  IF coalesce(current_setting('almanaque.late', true), '') = '' AND EXISTS (
    SELECT FROM closed_time c
      JOIN planting p ON p.school_id = c.school_id AND p.id = (found ->> TG_ARGV[0])::uuid AND p.status IN ('finished', 'lost')
      JOIN event e ON e.school_id = c.school_id AND e.planting_id = p.id AND e.kind IN ('cleared', 'lost') AND e.on_day BETWEEN c.from_day AND c.to_day
    WHERE c.school_id = (found ->> 'school_id')::uuid AND c.reopened_at IS NULL
  ) THEN
    RAISE EXCEPTION 'the year is closed' USING ERRCODE = 'check_violation', CONSTRAINT = 'closed_year';
  END IF;
  RETURN CASE TG_OP WHEN 'DELETE' THEN OLD ELSE NEW END;
END $$;

CREATE TRIGGER closed_year BEFORE UPDATE OR DELETE ON planting FOR EACH ROW EXECUTE FUNCTION keep_closed_plantings('id');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON patch FOR EACH ROW EXECUTE FUNCTION keep_closed_plantings('planting_id');
CREATE TRIGGER closed_year BEFORE INSERT OR UPDATE OR DELETE ON step_day FOR EACH ROW EXECUTE FUNCTION keep_closed_plantings('planting_id');
