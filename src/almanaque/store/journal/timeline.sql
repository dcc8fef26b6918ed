-- timeline: notes, sightings, photos, what happened and what was picked, newest first, of a bed, a planting or all, with words in them
SELECT x.what, x.id, x.day, x.at, x.bed_id, b.name AS bed_name, x.planting_id, p.crop, p.variety, p.method, x.words, x.seen, x.come_back_on, x.closed_on, x.late
FROM (
  SELECT 'note' AS what, id, noted_on AS day, noted_at AS at, bed_id, planting_id, body AS words, NULL::jsonb AS seen, come_back_on, closed_on, late
  FROM journal_entry
  UNION ALL
  SELECT 'seen', id, noted_on, noted_at, bed_id, planting_id, concat_ws(' ', kind, what, part, note, team), to_jsonb(s), come_back_on, closed_on, late
  FROM sighting s
  UNION ALL
  SELECT 'photo', id, noted_on, noted_at, bed_id, planting_id, caption, NULL, NULL, NULL, late FROM photo
  UNION ALL
  SELECT 'happened', e.id, e.on_day, e.noted_at, q.bed_id, e.planting_id, e.kind, NULL, NULL, NULL, false
  FROM event e JOIN planting q ON q.school_id = e.school_id AND q.id = e.planting_id
  WHERE e.kind <> 'first picking'
    AND NOT EXISTS (SELECT FROM sighting s WHERE s.planting_id = e.planting_id AND s.noted_on = e.on_day AND s.kind = 'stage')
  UNION ALL
  SELECT 'picked', h.id, h.picked_on, h.noted_at, q.bed_id, h.planting_id, trim_scale(h.amount) || ' ' || h.unit || CASE WHEN h.note = '' THEN '' ELSE '; ' || h.note END, NULL, NULL, NULL, h.late
  FROM harvest h JOIN planting q ON q.school_id = h.school_id AND q.id = h.planting_id WHERE h.taken_back_on IS NULL
) x
LEFT JOIN bed b ON b.id = x.bed_id
LEFT JOIN planting p ON p.id = x.planting_id
WHERE x.day <= %(until)s AND (%(since)s::date IS NULL OR x.day >= %(since)s)
  AND (%(bed)s::uuid IS NULL OR x.bed_id = %(bed)s) AND (%(planting)s::uuid IS NULL OR x.planting_id = %(planting)s)
  AND (%(whats)s::text[] IS NULL OR x.what = ANY(%(whats)s))
  AND (%(search)s::text IS NULL OR x.words ILIKE %(search)s OR b.name ILIKE %(search)s OR p.variety ILIKE %(search)s OR p.crop = ANY(%(crops)s))
ORDER BY x.day DESC, x.at DESC, x.id LIMIT %(limit)s;
