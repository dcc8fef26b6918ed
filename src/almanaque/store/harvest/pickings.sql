-- recent: the last pickings up to a day, or those of one planting, newest first
SELECT h.id, h.planting_id, p.bed_id, b.name AS bed_name, p.crop, p.variety, h.picked_on, h.part, h.amount, h.unit, h.grams, h.low_g,
  h.high_g, h.estimated, h.quality, h.class_group_id, h.team, h.note, h.basket_id, h.taken_back_on,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(u.use, u.share::text, u.to_what) ORDER BY u.share DESC, u.use), '[]')
   FROM use_of_harvest u WHERE u.school_id = h.school_id AND u.harvest_id = h.id) AS uses,
  c.hung_on, c.place, c.ready_on, c.cured_on, c.cured_g, coalesce(c.note, '') AS curing_note
FROM harvest h
JOIN planting p ON p.school_id = h.school_id AND p.id = h.planting_id
JOIN bed b ON b.school_id = p.school_id AND b.id = p.bed_id
LEFT JOIN curing c ON c.school_id = h.school_id AND c.harvest_id = h.id
WHERE (%(until)s::date IS NULL OR h.picked_on <= %(until)s)
  AND (%(planting)s::uuid IS NULL OR h.planting_id = %(planting)s)
  AND (%(one)s::uuid IS NULL OR h.id = %(one)s)
  AND (%(curing)s::boolean IS NOT TRUE OR c.harvest_id IS NOT NULL)
  AND (%(one)s::uuid IS NOT NULL OR h.taken_back_on IS NULL)
ORDER BY h.picked_on DESC, h.noted_at DESC, h.id
LIMIT %(limit)s;

-- sums: pickings up to a day added up by planting, season (its number, 0 before the first), part, class and team
SELECT x.planting_id::text, x.season, x.part, coalesce(x.group_id::text, ''), x.team, x.pickings, x.weighed_g, x.estimated_g, x.low_g, x.high_g,
  x.without_weight, x.first, x.last
FROM (
  SELECT h.planting_id, width_bucket(h.picked_on, %(firsts)s::date[]) AS season, h.part, coalesce(h.class_group_id, p.class_group_id) AS group_id, h.team,
    count(*)::integer AS pickings,
    coalesce(sum(h.grams) FILTER (WHERE NOT h.estimated), 0) AS weighed_g,
    coalesce(sum(h.grams) FILTER (WHERE h.estimated), 0) AS estimated_g,
    coalesce(sum(coalesce(h.low_g, h.grams)) FILTER (WHERE h.estimated), 0) AS low_g,
    coalesce(sum(coalesce(h.high_g, h.grams)) FILTER (WHERE h.estimated), 0) AS high_g,
    count(*) FILTER (WHERE h.grams IS NULL)::integer AS without_weight, min(h.picked_on) AS first, max(h.picked_on) AS last
  FROM harvest h
  JOIN planting p ON p.school_id = h.school_id AND p.id = h.planting_id
  WHERE h.picked_on <= %(until)s AND h.taken_back_on IS NULL
  GROUP BY 1, 2, 3, 4, 5) x;

-- uses: what became of the pickings of each season (its number) and crop, by mass and by number of pickings
SELECT x.season, x.crop, x.use, sum(x.grams) AS grams, sum(x.pickings)::integer AS pickings, sum(x.without_weight)::integer AS without_weight
FROM (
  SELECT h.planting_id, p.crop, width_bucket(h.picked_on, %(firsts)s::date[]) AS season, u.use, coalesce(sum(u.share * h.grams), 0) AS grams, count(*) AS pickings,
    count(*) FILTER (WHERE h.grams IS NULL) AS without_weight
  FROM use_of_harvest u
  JOIN harvest h ON h.school_id = u.school_id AND h.id = u.harvest_id
  JOIN planting p ON p.school_id = h.school_id AND p.id = h.planting_id
  WHERE h.picked_on <= %(until)s AND h.taken_back_on IS NULL
  GROUP BY 1, 2, 3, 4) x
GROUP BY 1, 2, 3;

-- version: a number that changes with what the book is made of; none while this transaction changes it
SELECT coalesce((SELECT number FROM book_version), 0)
WHERE coalesce(current_setting('almanaque.book_changing', true), '') = '';

-- losses: what was lost, to what, by planting and season
SELECT h.planting_id::text AS planting, u.to_what, sum(u.share * h.grams) AS grams, count(*) AS pickings
FROM use_of_harvest u
JOIN harvest h ON h.school_id = u.school_id AND h.id = u.harvest_id
WHERE u.use = 'lost' AND h.picked_on <= %(until)s AND h.taken_back_on IS NULL
GROUP BY 1, 2;

-- months: mass and pickings of each crop by month of a time
SELECT p.crop, date_trunc('month', h.picked_on)::date AS month, coalesce(sum(h.grams), 0) AS grams, count(*) AS pickings,
  count(*) FILTER (WHERE h.grams IS NULL) AS without_weight
FROM harvest h
JOIN planting p ON p.school_id = h.school_id AND p.id = h.planting_id
WHERE h.picked_on BETWEEN %(first)s AND %(last)s AND h.taken_back_on IS NULL
GROUP BY 1, 2
ORDER BY 2, 1;

-- grown: every planting that is more than pencil, as the book needs it, with the forecast that was made when it was started
SELECT p.id::text AS planting, b.name AS bed, b.id::text AS bed_id, b.ordinal AS bed_ordinal, p.crop, p.variety, p.status, p.method, p.start_on, f.plants, f.area_m2,
  coalesce(f.bed_from, p.start_on) AS bed_from, e.started, e.first, coalesce(e.gone,
    CASE WHEN p.status = 'in the ground' THEN greatest(f.clear_by, %(today)s) ELSE f.clear_by END, p.start_on) AS bed_to,
  m.first_pick_early, m.first_pick, m.first_pick_late, m.last_pick, coalesce(m.corrected, 0) AS corrected,
  m.last_early, m.last_first, m.last_late, m.moved_by
FROM planting p
JOIN bed b ON b.school_id = p.school_id AND b.id = p.bed_id
LEFT JOIN forecast f ON f.school_id = p.school_id AND f.planting_id = p.id
LEFT JOIN forecast_made m ON m.school_id = p.school_id AND m.planting_id = p.id
LEFT JOIN (
  SELECT planting_id, min(on_day) FILTER (WHERE kind = 'started') AS started, min(on_day) FILTER (WHERE kind = 'first picking') AS first,
    max(on_day) FILTER (WHERE kind IN ('cleared', 'lost')) AS gone
  FROM event GROUP BY planting_id) e ON e.planting_id = p.id
WHERE p.status IN ('in the ground', 'finished', 'lost');

-- save: keep a new picking
INSERT INTO harvest (school_id, id, planting_id, picked_on, part, amount, unit, grams, low_g, high_g, estimated, quality, class_group_id,
  team, note, basket_id, noted_by)
VALUES (%(school)s, %(id)s, %(planting)s, %(day)s, %(part)s, %(amount)s, %(unit)s, %(grams)s, %(low)s, %(high)s, %(estimated)s,
  %(quality)s, %(group)s, %(team)s, %(note)s, %(basket)s, %(by)s)
ON CONFLICT (school_id, id) DO NOTHING;

-- change: write a picking anew under its id
UPDATE harvest SET picked_on = %(day)s, part = %(part)s, amount = %(amount)s, unit = %(unit)s, grams = %(grams)s, low_g = %(low)s,
  high_g = %(high)s, estimated = %(estimated)s, quality = %(quality)s, class_group_id = %(group)s, team = %(team)s, note = %(note)s
WHERE id = %(id)s;

-- unweighed: pickings of a crop in a unit whose weight is not the scale's, to be reckoned anew after a weighing
SELECT h.id, h.amount FROM harvest h
JOIN planting p ON p.school_id = h.school_id AND p.id = h.planting_id
WHERE p.crop = %(crop)s AND h.unit = %(unit)s AND h.estimated AND h.basket_id IS NULL
  AND NOT EXISTS (SELECT FROM closed_time c WHERE c.school_id = h.school_id AND c.reopened_at IS NULL
                  AND h.picked_on BETWEEN c.from_day AND c.to_day);

-- unsized: plantings whose forecast does not say yet what they take
SELECT planting_id FROM forecast WHERE plants IS NULL;
