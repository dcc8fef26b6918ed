-- A school says whether its own pickings move its dates by themselves. Beside each promised range the last one before the first
-- picking is kept, and what had moved it by then.

ALTER TABLE school
  ADD COLUMN learns          boolean NOT NULL DEFAULT true,
  ADD COLUMN shares_lessons  boolean NOT NULL DEFAULT false;

ALTER TABLE forecast_made
  ADD COLUMN last_early date,
  ADD COLUMN last_first date,
  ADD COLUMN last_late  date,
  ADD COLUMN moved_by   text CONSTRAINT forecast_made_cause_known CHECK (moved_by IN ('seen', 'correction', 'season', 'other')),
  ADD CONSTRAINT forecast_made_last_in_order CHECK (last_early <= last_first AND last_first <= last_late);

-- One season teaches already, as much as it is worth; with none of its own a school may learn of others near by.
ALTER TABLE correction
  DROP CONSTRAINT correction_seasons_enough,
  ADD CONSTRAINT correction_seasons_some CHECK (seasons >= 0);

-- What a school that agreed tells others: by what share of its time a crop came later there. No bed, no day, no amount.
CREATE TABLE shared_lesson (
  school_id  uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  crop       text NOT NULL CONSTRAINT shared_lesson_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  share      double precision NOT NULL CONSTRAINT shared_lesson_share_sane CHECK (share BETWEEN -1 AND 1),
  unsure     double precision NOT NULL CONSTRAINT shared_lesson_unsure_sane CHECK (unsure BETWEEN 0 AND 10),
  PRIMARY KEY (school_id, crop)
);
SELECT give_wall('shared_lesson');

-- What the schools near by that agreed found together, crop by crop, for one that agreed too; which of them said what stays hidden.
-- Each weighs by how sure it is, `apart` being the standard deviation between schools; `unsure` is that of the mean.
CREATE FUNCTION lessons_near_by(within_km double precision, apart double precision)
RETURNS TABLE (crop text, share double precision, unsure double precision, schools bigint)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT l.crop, sum(l.share / (l.unsure ^ 2 + apart ^ 2)) / sum(1 / (l.unsure ^ 2 + apart ^ 2)),
    sqrt(1 / sum(1 / (l.unsure ^ 2 + apart ^ 2))), count(*)
  FROM school here
  JOIN school there ON there.id <> here.id AND there.shares_lessons
    AND 6371.0 * acos(least(1.0, sin(radians(here.latitude)) * sin(radians(there.latitude))
      + cos(radians(here.latitude)) * cos(radians(there.latitude)) * cos(radians(here.longitude - there.longitude)))) <= within_km
  JOIN shared_lesson l ON l.school_id = there.id
  WHERE here.id = current_setting('almanaque.school')::uuid AND here.shares_lessons
  GROUP BY l.crop
$$;
