-- sightings: what was seen between two days, in a bed or on a planting, or one by its id; newest first
SELECT s.id, s.kind, s.bed_id, s.planting_id, s.square, s.noted_on, s.what, s.part, s.severity, s.amount, s.second, s.of_amount, s.team, s.note,
  s.follows, s.come_back_on, s.closed_on, s.noted_at, b.name AS bed_name, p.crop
FROM sighting s
LEFT JOIN bed b ON b.school_id = s.school_id AND b.id = s.bed_id
LEFT JOIN planting p ON p.school_id = s.school_id AND p.id = s.planting_id
WHERE (%(id)s::uuid IS NULL OR s.id = %(id)s)
  AND (%(since)s::date IS NULL OR s.noted_on >= %(since)s)
  AND (%(until)s::date IS NULL OR s.noted_on <= %(until)s)
  AND (%(bed)s::uuid IS NULL OR s.bed_id = %(bed)s)
  AND (%(planting)s::uuid IS NULL OR s.planting_id = %(planting)s)
ORDER BY s.noted_on DESC, s.noted_at DESC, s.received_at DESC, s.id LIMIT %(limit)s;

-- of_plantings: what was seen on some plantings, oldest first
SELECT s.id, s.kind, s.bed_id, s.planting_id, s.square, s.noted_on, s.what, s.part, s.severity, s.amount, s.second, s.of_amount, s.team, s.note,
  s.follows, s.come_back_on, s.closed_on, s.noted_at, NULL AS bed_name, NULL AS crop
FROM sighting s WHERE s.planting_id = ANY(%(plantings)s) ORDER BY s.noted_on, s.noted_at, s.received_at, s.id;

-- save: keep what was seen
INSERT INTO sighting (school_id, id, kind, bed_id, planting_id, square, noted_on, what, part, severity, amount, second, of_amount, team, note,
                      follows, come_back_on, closed_on, noted_by, noted_at)
VALUES (%(school)s, %(id)s, %(kind)s, %(bed)s, %(planting)s, %(square)s, %(day)s, %(what)s, %(part)s, %(severity)s, %(amount)s, %(second)s,
        %(of)s, %(team)s, %(note)s, %(follows)s, %(back)s, %(closed)s, %(by)s, %(at)s)
ON CONFLICT (school_id, id) DO NOTHING;

-- close: settle a trouble with all that was seen of it
UPDATE sighting SET closed_on = %(day)s WHERE (id = %(root)s OR follows = %(root)s) AND closed_on IS NULL;

-- remedies: what was done against what, on which planting
SELECT r.id, r.what, s.what AS against, r.applied_on, r.ask_on, r.outcome, s.planting_id, p.crop
FROM remedy r JOIN sighting s ON s.school_id = r.school_id AND s.id = r.sighting_id
LEFT JOIN planting p ON p.school_id = s.school_id AND p.id = s.planting_id
ORDER BY r.applied_on, r.id;

-- open_ones: troubles that somebody is to come back to, oldest first
SELECT s.id, s.kind, s.bed_id, s.planting_id, s.square, s.noted_on, s.what, s.part, s.severity, s.amount, s.second, s.of_amount, s.team, s.note,
  s.follows, s.come_back_on, s.closed_on, s.noted_at, b.name AS bed_name, p.crop
FROM sighting s
LEFT JOIN bed b ON b.school_id = s.school_id AND b.id = s.bed_id
LEFT JOIN planting p ON p.school_id = s.school_id AND p.id = s.planting_id
WHERE s.closed_on IS NULL AND s.come_back_on IS NOT NULL AND s.noted_on <= %(until)s
ORDER BY s.noted_on, s.noted_at, s.received_at, s.id;
