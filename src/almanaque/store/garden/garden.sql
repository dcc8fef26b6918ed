-- beds: all beds in the order of the round, with their kept parts
SELECT b.id, b.site_id, b.ordinal, b.name, b.purpose, b.kind, b.material, b.built_year,
  b.x_mm::float8, b.y_mm::float8, b.length_mm::float8, b.width_mm::float8, b.depth_mm::float8, b.cell_mm::float8,
  b.class_group_id, b.version, b.turn_deg, b.outline_mm, b.volume_l::float8, b.pockets, b.light_h::float8, b.warmth_c::float8, b.drip_l_h::float8,
  coalesce((SELECT l.pace FROM bed_pace l WHERE l.school_id = b.school_id AND l.bed_id = b.id), 1)::float8 AS pace,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(k.x_mm, k.y_mm, k.length_mm, k.width_mm, k.label, k.from_day, k.to_day,
                                                 k.crop, k.height_mm, k.spread_mm)
                             ORDER BY k.label), '[]')
   FROM kept_part k WHERE k.school_id = b.school_id AND k.bed_id = b.id) AS kept
FROM bed b
WHERE %(bed)s::uuid IS NULL OR b.id = %(bed)s
ORDER BY b.ordinal;

-- save_bed: a bed under its id, new or changed; its version and place in the round stay
INSERT INTO bed (school_id, id, site_id, ordinal, name, purpose, kind, material, built_year, x_mm, y_mm, length_mm, width_mm,
                 depth_mm, cell_mm, class_group_id, turn_deg, outline_mm, volume_l, pockets, light_h, warmth_c, drip_l_h)
VALUES (%(school)s, %(id)s, %(site)s, (SELECT coalesce(max(ordinal), 0) + 1 FROM bed), %(name)s, %(purpose)s, %(kind)s, %(material)s,
        %(built_year)s, %(x)s, %(y)s, %(length)s, %(width)s, %(depth)s, %(cell)s, %(group)s, %(turn)s, %(outline)s, %(volume)s,
        %(pockets)s, %(light)s, %(warmth)s, %(drip)s)
ON CONFLICT (school_id, id) DO UPDATE
SET name = excluded.name, purpose = excluded.purpose, kind = excluded.kind, material = excluded.material,
    built_year = excluded.built_year, x_mm = excluded.x_mm, y_mm = excluded.y_mm, length_mm = excluded.length_mm,
    width_mm = excluded.width_mm, depth_mm = excluded.depth_mm, cell_mm = excluded.cell_mm, class_group_id = excluded.class_group_id,
    turn_deg = excluded.turn_deg, outline_mm = excluded.outline_mm, volume_l = excluded.volume_l, pockets = excluded.pockets,
    light_h = excluded.light_h, warmth_c = excluded.warmth_c, drip_l_h = excluded.drip_l_h;

-- bed_used: whether anything was planted, noted, done or changed on a bed, so that its history must stay
SELECT EXISTS (SELECT FROM planting WHERE bed_id = %(bed)s) OR EXISTS (SELECT FROM soil_test WHERE bed_id = %(bed)s)
    OR EXISTS (SELECT FROM amendment WHERE bed_id = %(bed)s) OR EXISTS (SELECT FROM found_plant WHERE bed_id = %(bed)s) OR EXISTS (SELECT FROM journal_entry WHERE bed_id = %(bed)s)
    OR EXISTS (SELECT FROM sighting WHERE bed_id = %(bed)s) OR EXISTS (SELECT FROM photo WHERE bed_id = %(bed)s)
    OR EXISTS (SELECT FROM task WHERE bed_id = %(bed)s) AS used;

-- sites: the ground the beds lie on
SELECT id, name, width_mm::float8, depth_mm::float8, north_deg, latitude, longitude FROM site ORDER BY name;

-- plantings: plantings with their squares, forecast and events; of one bed, or in the ground at some time between two days
SELECT p.id, p.bed_id, p.crop, p.variety, p.status, p.draft_id, p.method, p.start_on, p.per_square, p.class_group_id,
  p.arrangement, p.spacing_from, p.in_row_mm::float8, p.row_mm::float8, p.sow_mm::float8, p.edge_mm::float8, p.wanted, p.with_others, p.cover, p.series_id, p.theme_id,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(a.col, a.row) ORDER BY a.row, a.col), '[]')
   FROM patch a WHERE a.school_id = p.school_id AND a.planting_id = p.id) AS cells,
  (SELECT coalesce(jsonb_object_agg(e.kind, e.on_day), '{}')
   FROM event e WHERE e.school_id = p.school_id AND e.planting_id = p.id) AS events,
  (SELECT coalesce(jsonb_object_agg(d.step, d.on_day), '{}')
   FROM step_day d WHERE d.school_id = p.school_id AND d.planting_id = p.id) AS steps,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(w.word, w.step, w.on_day)), '[]')
   FROM tending_word w WHERE w.school_id = p.school_id AND w.planting_id = p.id) AS tended,
  f.depends_on, f.bed_from, f.emerge_from, f.emerge_to, f.first_pick_early, f.first_pick, f.first_pick_late,
  f.last_pick, f.stands_until, f.clear_by, f.fit_years, f.of_years, f.verdict, f.findings
FROM planting p
LEFT JOIN forecast f ON f.school_id = p.school_id AND f.planting_id = p.id
WHERE (%(planting)s::uuid IS NULL OR p.id = %(planting)s)
  AND (%(bed)s::uuid IS NULL OR p.bed_id = %(bed)s)
  AND (%(crops)s::text[] IS NULL OR p.crop = ANY(%(crops)s))
  AND (%(until)s::date IS NULL OR coalesce(f.bed_from, p.start_on) <= %(until)s)
  AND (%(since)s::date IS NULL OR coalesce(
        (SELECT max(e.on_day) FROM event e WHERE e.school_id = p.school_id AND e.planting_id = p.id
           AND e.kind IN ('cleared', 'lost')),
        CASE WHEN p.status = 'in the ground' THEN 'infinity'::date END,
        f.clear_by, p.start_on) >= %(since)s)
ORDER BY p.start_on, p.crop, p.id;

-- beds_in_use: the beds in which something stands or is planned, of some crops or of all
SELECT DISTINCT bed_id FROM planting
WHERE status IN ('pencilled', 'planned', 'in the ground') AND (%(crops)s::text[] IS NULL OR crop = ANY(%(crops)s))
ORDER BY bed_id;

-- stood: what stood in every bed since a day, for rotation, with the squares of some beds
SELECT p.bed_id, b.name, p.crop,
  CASE WHEN p.bed_id = ANY(%(beds)s::uuid[]) THEN
    (SELECT coalesce(jsonb_agg(jsonb_build_array(a.col, a.row)), '[]') FROM patch a WHERE a.school_id = p.school_id AND a.planting_id = p.id)
  ELSE '[]' END,
  coalesce((SELECT max(e.on_day) FROM event e WHERE e.school_id = p.school_id AND e.planting_id = p.id AND e.kind IN ('cleared', 'lost')),
           f.clear_by)
FROM planting p JOIN bed b ON b.school_id = p.school_id AND b.id = p.bed_id
LEFT JOIN forecast f ON f.school_id = p.school_id AND f.planting_id = p.id
WHERE p.status IN ('in the ground', 'finished', 'lost') AND coalesce(f.clear_by, p.start_on) >= %(since)s
ORDER BY b.ordinal, p.start_on;

-- save_planting: write a planting under its id, new or changed
INSERT INTO planting (school_id, id, bed_id, crop, variety, status, draft_id, method, start_on, per_square, class_group_id,
                      arrangement, spacing_from, in_row_mm, row_mm, sow_mm, edge_mm, wanted, with_others,
                      cover, series_id, theme_id)
VALUES (%(school_id)s, %(id)s, %(bed_id)s, %(crop)s, %(variety)s, %(status)s, %(draft_id)s, %(method)s, %(start_on)s,
        %(per_square)s, %(class_group_id)s, %(arrangement)s, %(spacing_from)s, %(in_row_mm)s, %(row_mm)s, %(sow_mm)s, %(edge_mm)s,
        %(wanted)s, %(with_others)s, %(cover)s, %(series_id)s, %(theme_id)s)
ON CONFLICT (school_id, id) DO UPDATE SET
  crop = excluded.crop, variety = excluded.variety, status = excluded.status, draft_id = excluded.draft_id,
  method = excluded.method, start_on = excluded.start_on, per_square = excluded.per_square,
  class_group_id = excluded.class_group_id, arrangement = excluded.arrangement, spacing_from = excluded.spacing_from,
  in_row_mm = excluded.in_row_mm, row_mm = excluded.row_mm, sow_mm = excluded.sow_mm, edge_mm = excluded.edge_mm,
  wanted = excluded.wanted, with_others = excluded.with_others, cover = excluded.cover, series_id = excluded.series_id,
  theme_id = excluded.theme_id;

-- save_forecast: write the dates and verdict of a planting
INSERT INTO forecast (school_id, planting_id, depends_on, bed_from, emerge_from, emerge_to, first_pick_early, first_pick,
                      first_pick_late, last_pick, stands_until, clear_by, fit_years, of_years, verdict, findings)
VALUES (%(school_id)s, %(planting_id)s, %(depends_on)s, %(bed_from)s, %(emerge_from)s, %(emerge_to)s,
        %(first_pick_early)s, %(first_pick)s, %(first_pick_late)s, %(last_pick)s, %(stands_until)s, %(clear_by)s, %(fit_years)s, %(of_years)s, %(verdict)s, %(findings)s)
ON CONFLICT (school_id, planting_id) DO UPDATE SET
  depends_on = excluded.depends_on, bed_from = excluded.bed_from, emerge_from = excluded.emerge_from,
  emerge_to = excluded.emerge_to, first_pick_early = excluded.first_pick_early, first_pick = excluded.first_pick,
  first_pick_late = excluded.first_pick_late, last_pick = excluded.last_pick, clear_by = excluded.clear_by,
  stands_until = excluded.stands_until, fit_years = excluded.fit_years, of_years = excluded.of_years, verdict = excluded.verdict, findings = excluded.findings, computed_at = now();

-- has_history: whether anything happened to a planting that must not be lost
SELECT EXISTS (SELECT FROM event WHERE planting_id = %(planting)s)
    OR EXISTS (SELECT FROM harvest WHERE planting_id = %(planting)s)
    OR EXISTS (SELECT FROM sighting WHERE planting_id = %(planting)s) OR EXISTS (SELECT FROM photo WHERE planting_id = %(planting)s)
    OR EXISTS (SELECT FROM lineage WHERE from_id = %(planting)s)
    OR EXISTS (SELECT FROM lot_use WHERE planting_id = %(planting)s) OR EXISTS (SELECT FROM tray_sowing WHERE planting_id = %(planting)s)
    OR EXISTS (SELECT FROM seed_lot WHERE from_planting = %(planting)s) OR EXISTS (SELECT FROM ingredient WHERE planting_id = %(planting)s)
    OR EXISTS (SELECT FROM ledger_entry WHERE planting_id = %(planting)s)
    OR EXISTS (SELECT FROM task WHERE planting_id = %(planting)s AND status <> 'open');
