-- school: the school of the transaction
SELECT id, name, setting, zone, latitude, longitude, units, theme, weather_source, weather_digest FROM school;

-- years: school years with their terms, closures and feasts, each list in order of time
SELECT y.id, y.name, y.starts, y.ends,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(t.id, t.name, t.starts, t.ends) ORDER BY t.starts), '[]')
   FROM term t WHERE t.school_id = y.school_id AND t.school_year_id = y.id) AS terms,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(c.id, c.name, c.starts, c.ends) ORDER BY c.starts), '[]')
   FROM closure c WHERE c.school_id = y.school_id AND c.school_year_id = y.id) AS closures,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(f.id, f.name, f.on_day, f.on_day) ORDER BY f.on_day), '[]')
   FROM feast f WHERE f.school_id = y.school_id AND f.school_year_id = y.id) AS feasts
FROM school_year y ORDER BY y.starts;

-- groups: class groups with their weekly slots
SELECT g.id, g.name, g.entry_year, g.head_count,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(s.weekday, s.starts_at, s.minutes) ORDER BY s.weekday, s.starts_at), '[]')
   FROM slot s WHERE s.school_id = g.school_id AND s.class_group_id = g.id) AS slots
FROM class_group g ORDER BY g.entry_year NULLS LAST, g.name;
