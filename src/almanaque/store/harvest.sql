-- pickings: every picking up to a day with what the book needs to know of its planting, newest first
SELECT h.id, h.planting_id, p.bed_id, b.name AS bed_name, b.ordinal AS bed_ordinal, p.crop, h.picked_on, h.part, h.amount,
  h.unit, h.grams, h.estimated, h.class_group_id, h.note, p.per_square, b.cell_mm::float8,
  p.arrangement, p.spacing_from, p.in_row_mm::float8, p.row_mm::float8, p.edge_mm::float8, p.wanted,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(a.col, a.row)), '[]')
   FROM patch a WHERE a.school_id = p.school_id AND a.planting_id = p.id) AS cells,
  (SELECT coalesce(jsonb_object_agg(u.use, u.share), '{}')
   FROM use_of_harvest u WHERE u.school_id = h.school_id AND u.harvest_id = h.id) AS uses
FROM harvest h
JOIN planting p ON p.school_id = h.school_id AND p.id = h.planting_id
JOIN bed b ON b.school_id = p.school_id AND b.id = p.bed_id
WHERE h.picked_on <= %(until)s
ORDER BY h.picked_on DESC, h.noted_at DESC;

-- save: keep a new picking
INSERT INTO harvest (school_id, id, planting_id, picked_on, part, amount, unit, grams, estimated, class_group_id, note, noted_by)
VALUES (%(school)s, %(id)s, %(planting)s, %(day)s, %(part)s, %(amount)s, %(unit)s, %(grams)s, %(estimated)s, %(group)s,
        %(note)s, %(by)s)
ON CONFLICT (school_id, id) DO NOTHING;
