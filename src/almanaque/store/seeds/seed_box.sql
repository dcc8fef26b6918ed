-- lots: one lot or all, with seeds taken so far and the tests with their counts
SELECT l.id, l.crop, l.variety, l.origin, l.whom, l.from_planting, l.year, l.grams, l.seeds, l.pelleted, l.hybrid, l.place, l.where_kept,
  l.packets, l.price_minor, l.note, l.got_on, l.closed_on, l.closed_why,
  (SELECT coalesce(sum(u.seeds), 0)::integer FROM lot_use u WHERE u.school_id = l.school_id AND u.lot_id = l.id) AS taken,
  (SELECT coalesce(jsonb_agg(jsonb_build_object('id', t.id, 'started_on', t.started_on, 'sown', t.sown, 'place', t.place, 'ended_on', t.ended_on,
     'counts', (SELECT coalesce(jsonb_agg(jsonb_build_array(c.on_day, c.up) ORDER BY c.on_day), '[]')
                FROM germination_count c WHERE c.school_id = t.school_id AND c.test_id = t.id)) ORDER BY t.started_on, t.id), '[]')
   FROM germination_test t WHERE t.school_id = l.school_id AND t.lot_id = l.id) AS tests
FROM seed_lot l
WHERE %(id)s::uuid IS NULL OR l.id = %(id)s
ORDER BY l.closed_on NULLS FIRST, l.crop, l.year DESC, l.id;

-- save_lot: write a lot, new or changed
INSERT INTO seed_lot (school_id, id, crop, variety, origin, whom, from_planting, year, grams, seeds, pelleted, hybrid, place, where_kept,
  packets, price_minor, note, got_on, closed_on, closed_why)
VALUES (%(school)s, %(id)s, %(crop)s, %(variety)s, %(origin)s, %(whom)s, %(from_planting)s, %(year)s, %(grams)s, %(seeds)s, %(pelleted)s,
  %(hybrid)s, %(place)s, %(where)s, %(packets)s, %(price)s, %(note)s, %(got_on)s, %(closed_on)s, %(closed_why)s)
ON CONFLICT (school_id, id) DO UPDATE SET variety = excluded.variety, origin = excluded.origin,
  whom = excluded.whom, from_planting = excluded.from_planting, got_on = excluded.got_on, year = excluded.year, grams = excluded.grams,
  seeds = excluded.seeds, pelleted = excluded.pelleted, hybrid = excluded.hybrid, place = excluded.place, where_kept = excluded.where_kept,
  packets = excluded.packets, price_minor = excluded.price_minor, note = excluded.note, closed_on = excluded.closed_on,
  closed_why = excluded.closed_why;

-- trays: one tray or all with what was sown into them
SELECT t.id, t.name, t.columns, t.rows, t.place, t.emptied_on,
  (SELECT coalesce(jsonb_agg(to_jsonb(s) ORDER BY s.gone_on NULLS FIRST, s.first_cell), '[]')
   FROM tray_sowing s WHERE s.school_id = t.school_id AND s.tray_id = t.id) AS sowings
FROM tray t
WHERE %(id)s::uuid IS NULL OR t.id = %(id)s
ORDER BY t.emptied_on NULLS FIRST, t.name, t.id;

-- sow: write what is in some cells of a tray
INSERT INTO tray_sowing (school_id, id, tray_id, first_cell, last_cell, crop, planting_id, lot_id, sown_on, per_cell, goes_home, up, gone_on)
VALUES (%(school)s, %(id)s, %(tray)s, %(first)s, %(last)s, %(crop)s, %(planting)s, %(lot)s, %(sown_on)s, %(per_cell)s, %(home)s, %(up)s, %(gone_on)s)
ON CONFLICT (school_id, id) DO UPDATE SET goes_home = excluded.goes_home, up = excluded.up, gone_on = excluded.gone_on;
