-- entries: notes up to a day, newest first, of one bed or of all
SELECT j.id, j.bed_id, b.name AS bed_name, j.noted_on, j.body, j.come_back_on, j.closed_on, j.noted_by, j.noted_at
FROM journal_entry j LEFT JOIN bed b ON b.school_id = j.school_id AND b.id = j.bed_id
WHERE j.noted_on <= %(until)s AND (%(bed)s::uuid IS NULL OR j.bed_id = %(bed)s)
ORDER BY j.noted_on DESC, j.noted_at DESC LIMIT %(limit)s;

-- come_back: open notes whose day to come back is due within a week
SELECT j.id, j.bed_id, b.name AS bed_name, j.noted_on, j.body, j.come_back_on, j.closed_on, j.noted_by, j.noted_at
FROM journal_entry j LEFT JOIN bed b ON b.school_id = j.school_id AND b.id = j.bed_id
WHERE j.closed_on IS NULL AND j.noted_on <= %(day)s AND j.come_back_on <= %(day)s::date + 7
ORDER BY j.come_back_on, j.noted_on;

-- save: keep a new note
INSERT INTO journal_entry (school_id, id, bed_id, noted_on, body, come_back_on, noted_by)
VALUES (%(school)s, %(id)s, %(bed)s, %(day)s, %(body)s, %(back)s, %(by)s)
ON CONFLICT (school_id, id) DO NOTHING;
