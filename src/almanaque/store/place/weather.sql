-- by_hand: one day's readings by hand; what is left empty keeps what was there
INSERT INTO weather_day AS w (school_id, source, day, tmin_c, tmax_c, rain_mm, wind_ms, wind_from, soil_c, by_hand)
VALUES (%(school)s, %(source)s, %(day)s, %(tmin_c)s, %(tmax_c)s, %(rain_mm)s, %(wind_ms)s, %(wind_from)s, %(soil_c)s, true)
ON CONFLICT (school_id, source, day) DO UPDATE
SET tmin_c = coalesce(excluded.tmin_c, w.tmin_c), tmax_c = coalesce(excluded.tmax_c, w.tmax_c),
    rain_mm = coalesce(excluded.rain_mm, w.rain_mm), wind_ms = coalesce(excluded.wind_ms, w.wind_ms),
    wind_from = coalesce(excluded.wind_from, w.wind_from), soil_c = coalesce(excluded.soil_c, w.soil_c), by_hand = true;

-- digest: a fingerprint of all readings of a source, on which cached answers depend
SELECT coalesce(md5(string_agg(concat_ws(':', day, tmin_c, tmax_c, rain_mm, soil_c), ';' ORDER BY day)), '')
FROM weather_day WHERE source = %(source)s;

-- sources: every source with what it holds
SELECT s.name, s.kind, s.about, count(d.day) AS days, min(d.day) AS first_day, max(d.day) AS last_day,
       count(*) FILTER (WHERE d.by_hand) AS by_hand,
       coalesce(max(d.day) - min(d.day) + 1 - count(d.day), 0)::integer AS missing
FROM weather_source s LEFT JOIN weather_day d ON d.school_id = s.school_id AND d.source = s.name
GROUP BY s.school_id, s.name, s.kind, s.about ORDER BY s.kind, s.name;

-- gaps: runs of days without a reading within a source, the latest first
SELECT (day + 1)::date AS starts, (following - 1)::date AS ends FROM (
  SELECT day, lead(day) OVER (ORDER BY day) AS following FROM weather_day WHERE source = %(source)s) pairs
WHERE following - day > 1 ORDER BY day DESC LIMIT 60;

-- merge: readings into their source; what a reading lacks stays as it was
INSERT INTO weather_day AS w (school_id, source, day, tmin_c, tmax_c, rain_mm, wind_ms, soil_c, by_hand)
SELECT %(school)s::uuid, %(source)s::text, r.day, r.tmin_c, r.tmax_c, r.rain_mm, r.wind_ms, r.soil_c, false
FROM unnest(%(day)s::date[], %(tmin_c)s::real[], %(tmax_c)s::real[], %(rain_mm)s::real[], %(wind_ms)s::real[], %(soil_c)s::real[])
  AS r (day, tmin_c, tmax_c, rain_mm, wind_ms, soil_c)
ON CONFLICT (school_id, source, day) DO UPDATE
SET tmin_c = coalesce(excluded.tmin_c, w.tmin_c), tmax_c = coalesce(excluded.tmax_c, w.tmax_c),
    rain_mm = coalesce(excluded.rain_mm, w.rain_mm), wind_ms = coalesce(excluded.wind_ms, w.wind_ms),
    soil_c = coalesce(excluded.soil_c, w.soil_c);
