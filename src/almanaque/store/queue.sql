-- jobs_of: what a school is owed and what failed for it since the same was last done
SELECT j.task_name AS task, j.status::text AS status,
  greatest(j.attempts, coalesce((j.args ->> 'tried')::integer, 0)) AS tried,
  coalesce((SELECT max(e.at) FROM procrastinate_events e WHERE e.job_id = j.id), now()) AS at,
  CASE WHEN j.status = 'todo' THEN j.scheduled_at END AS next_try_at
FROM procrastinate_jobs j
WHERE j.args ->> 'school_id' = %(school)s AND j.task_name IN ('recompute_school', 'make_pdf', 'plan_season')
  AND (j.status IN ('todo', 'doing') OR j.status = 'failed' AND NOT EXISTS (
    SELECT FROM procrastinate_jobs later
    WHERE later.id > j.id AND later.task_name = j.task_name AND later.args ->> 'school_id' = %(school)s))
ORDER BY j.id DESC;
