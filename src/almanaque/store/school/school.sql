-- school: the school of the transaction
SELECT id, name, setting, zone, latitude, longitude, units, theme, weather_source, weather_digest, place_name, grade_word,
       first_grade, last_grade, rest_years, neighbours, feeding, hand_span_mm::float8, invasive_here, currency, ready_by, leads, moon, learns,
       shares_lessons, water_by, hose_l_min::float8, bottle_l::float8, rounds_a_week, mail_to
FROM school;

-- years: school years with their terms, closures, half days and feasts, each list in order of time
SELECT y.id, y.name, y.starts, y.ends,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(t.id, t.name, t.starts, t.ends, t.kind) ORDER BY t.starts), '[]')
   FROM term t WHERE t.school_id = y.school_id AND t.school_year_id = y.id) AS terms,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(c.id, c.name, c.starts, c.ends, c.kind) ORDER BY c.starts, c.ends), '[]')
   FROM closure c WHERE c.school_id = y.school_id AND c.school_year_id = y.id) AS closures,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(h.id, h.name, h.on_day, h.until) ORDER BY h.on_day), '[]')
   FROM half_day h WHERE h.school_id = y.school_id AND h.school_year_id = y.id) AS half_days,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(f.id, f.name, f.on_day, f.on_day, 'feast') ORDER BY f.on_day), '[]')
   FROM feast f WHERE f.school_id = y.school_id AND f.school_year_id = y.id) AS feasts
FROM school_year y ORDER BY y.starts;

-- groups: class groups with their weekly slots, flags and teams
SELECT g.id, g.name, g.kind, g.entry_year, g.head_count, g.led_by, g.closed_on,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(s.id, s.weekday, s.starts_at, s.minutes, s.from_day, s.to_day, s.in_terms, s.in_programme)
                             ORDER BY s.weekday, s.starts_at), '[]')
   FROM slot s WHERE s.school_id = g.school_id AND s.class_group_id = g.id) AS slots,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(f.id, f.kind, f.what) ORDER BY f.kind, f.what), '[]')
   FROM group_flag f WHERE f.school_id = g.school_id AND f.class_group_id = g.id) AS flags,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(t.id, t.name) ORDER BY t.name), '[]')
   FROM team t WHERE t.school_id = g.school_id AND t.class_group_id = g.id) AS teams
FROM class_group g ORDER BY g.entry_year NULLS LAST, g.name;

-- save_year: a school year under its id, new or changed
INSERT INTO school_year (school_id, id, name, starts, ends) VALUES (%(school)s, %(id)s, %(name)s, %(starts)s, %(ends)s)
ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, starts = excluded.starts, ends = excluded.ends;

-- save_half_day: a half day under its id, new or changed
INSERT INTO half_day (school_id, id, school_year_id, name, on_day, until)
VALUES (%(school)s, %(id)s, %(year)s, %(name)s, %(day)s, %(until)s)
ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, on_day = excluded.on_day, until = excluded.until;

-- save_feast: a date to serve under its id, new or changed
INSERT INTO feast (school_id, id, school_year_id, name, on_day) VALUES (%(school)s, %(id)s, %(year)s, %(name)s, %(day)s)
ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, on_day = excluded.on_day;

-- save_group: a group under its id, new or changed
INSERT INTO class_group (school_id, id, name, kind, entry_year, head_count, led_by, closed_on)
VALUES (%(school)s, %(id)s, %(name)s, %(kind)s, %(entry_year)s, %(head_count)s, %(led_by)s, %(closed_on)s)
ON CONFLICT (school_id, id) DO UPDATE
SET name = excluded.name, kind = excluded.kind, entry_year = excluded.entry_year, head_count = excluded.head_count,
    led_by = excluded.led_by, closed_on = excluded.closed_on;

-- save_slot: a weekly lesson of a group under its id, new or changed
INSERT INTO slot (school_id, id, class_group_id, weekday, starts_at, minutes, from_day, to_day, in_terms, in_programme)
VALUES (%(school)s, %(id)s, %(group)s, %(weekday)s, %(starts_at)s, %(minutes)s, %(from_day)s, %(to_day)s, %(in_terms)s, %(in_programme)s)
ON CONFLICT (school_id, id) DO UPDATE
SET weekday = excluded.weekday, starts_at = excluded.starts_at, minutes = excluded.minutes, from_day = excluded.from_day,
    to_day = excluded.to_day, in_terms = excluded.in_terms, in_programme = excluded.in_programme;

-- open_jobs: open jobs that are given to a day between two, or to nobody yet and may be done then
SELECT t.id, t.title, coalesce(t.on_day, greatest(t.from_day, %(start)s)) AS on_day, t.class_group_id, t.carer,
       coalesce(b.name, '') AS bed_name
FROM task t LEFT JOIN bed b ON b.school_id = t.school_id AND b.id = t.bed_id
WHERE t.status = 'open'
  AND (t.on_day BETWEEN %(start)s AND %(end)s OR (t.on_day IS NULL AND t.from_day <= %(end)s AND t.to_day >= %(start)s))
ORDER BY 3, t.title;
