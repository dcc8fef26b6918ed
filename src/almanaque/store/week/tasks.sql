-- tasks: jobs of a time, of one planting, or both; with the names of bed and class
SELECT t.id, t.planting_id, t.routine, t.step, t.ordinal, t.bed_id, t.title, t.caution, t.from_day, t.to_day, t.on_day,
  t.class_group_id, t.carer, t.why, t.minutes, t.status, t.done_on, t.hand_set,
  t.part_done_on, t.minutes_taken, t.amount, t.note, t.lapses, b.name AS bed_name
FROM task t LEFT JOIN bed b ON b.school_id = t.school_id AND b.id = t.bed_id
WHERE (%(task)s::uuid IS NULL OR t.id = %(task)s)
  AND (%(planting)s::uuid IS NULL OR t.planting_id = %(planting)s)
  AND (%(status)s::text IS NULL OR t.status = %(status)s)
  AND (%(start)s::date IS NULL OR coalesce(t.done_on, t.on_day, t.to_day) >= %(start)s)
  AND (%(end)s::date IS NULL OR coalesce(t.done_on, t.on_day, t.from_day) <= %(end)s)
ORDER BY coalesce(t.on_day, t.from_day), b.ordinal, t.step, t.ordinal, t.title, t.id;

-- save_task: write a job under its identity; a finished or hand-set one keeps its day and people
INSERT INTO task AS t (school_id, id, planting_id, routine, step, ordinal, bed_id, title, caution, from_day, to_day, on_day,
                       class_group_id, carer, why, minutes, lapses)
VALUES (%(school_id)s, %(id)s, %(planting_id)s, %(routine)s, %(step)s, %(ordinal)s, %(bed_id)s, %(title)s, %(caution)s,
        %(from_day)s, %(to_day)s, %(on_day)s, %(class_group_id)s, %(carer)s, %(why)s, %(minutes)s, %(lapses)s)
ON CONFLICT (school_id, coalesce(planting_id::text, routine), step, ordinal) DO UPDATE SET
  title = excluded.title, caution = excluded.caution, from_day = excluded.from_day, to_day = excluded.to_day,
  minutes = excluded.minutes, lapses = excluded.lapses, on_day = excluded.on_day, class_group_id = excluded.class_group_id,
  carer = excluded.carer, why = excluded.why
WHERE t.status = 'open' AND NOT t.hand_set;

-- drop_open_tasks: jobs of a planting that nobody has touched and that the rules no longer ask for
DELETE FROM task t WHERE t.planting_id = %(planting)s AND t.status = 'open' AND NOT t.hand_set
  AND NOT ((t.step || '/' || t.ordinal) = ANY (%(keep)s));

-- load: minutes already given to each class and day from a day on, other than by one planting
SELECT on_day, class_group_id, sum(minutes)::integer, coalesce(sum(minutes) FILTER (WHERE lapses), 0)::integer FROM task
WHERE status = 'open' AND on_day >= %(start)s AND class_group_id IS NOT NULL
  AND (planting_id IS DISTINCT FROM %(planting)s)
GROUP BY on_day, class_group_id;

-- give: let a job that is open be done by a class, by carers, or by nobody yet; one set by hand stays unless it is set anew
UPDATE task SET on_day = %(day)s, class_group_id = %(group)s, carer = %(carer)s, why = %(why)s, hand_set = %(by_hand)s
WHERE id = %(task)s AND status = 'open' AND (NOT hand_set OR %(anew)s);

-- tell: what became of a job besides its status
UPDATE task SET part_done_on = %(part)s, minutes_taken = %(minutes)s, amount = %(amount)s, note = %(note)s WHERE id = %(task)s;

-- set_status: mark a job done, not needed or open again
UPDATE task SET status = %(status)s, done_on = %(day)s, done_by = %(by)s WHERE id = %(task)s
RETURNING id, planting_id, step;

-- told: note when somebody said what became of a job, unless a later word is known; says which it is
UPDATE task SET told_at = coalesce(%(at)s::timestamptz, now())
WHERE id = %(task)s AND (told_at IS NULL OR told_at <= coalesce(%(at)s::timestamptz, now()))
RETURNING id;

-- of_beds: jobs of beds as a whole that are over, done or not needed, of some kinds
SELECT t.id, t.planting_id, t.routine, t.step, t.ordinal, t.bed_id, t.title, t.caution, t.from_day, t.to_day, t.on_day,
  t.class_group_id, t.carer, t.why, t.minutes, t.status, t.done_on, t.hand_set,
  t.part_done_on, t.minutes_taken, t.amount, t.note, t.lapses, b.name AS bed_name
FROM task t JOIN bed b ON b.school_id = t.school_id AND b.id = t.bed_id
WHERE t.routine = ANY(%(kinds)s) AND t.status <> 'open'
ORDER BY coalesce(t.done_on, t.from_day), t.id;

-- drop_of_beds: jobs of beds as a whole that nobody has touched and that the rules no longer ask for
DELETE FROM task WHERE routine = ANY(%(kinds)s) AND bed_id IS NOT NULL AND status = 'open' AND NOT hand_set
  AND NOT id = ANY(%(keep)s);
