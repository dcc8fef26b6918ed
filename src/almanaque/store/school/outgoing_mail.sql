-- mails: the last messages, newest first, without secret ones
SELECT id, key, mail_to, subject, body, made_at, sent_at, problem, tries, next_try_at, given_up_at
FROM mail WHERE NOT starts_with(key, %(secret)s) ORDER BY made_at DESC LIMIT %(limit)s;

-- due: messages to hand over now, those that wait longest for their turn first
SELECT id, key, mail_to, subject, body, made_at, sent_at, problem, tries, next_try_at, given_up_at
FROM mail WHERE sent_at IS NULL AND given_up_at IS NULL AND coalesce(next_try_at, made_at) <= now()
ORDER BY coalesce(next_try_at, made_at) LIMIT %(limit)s;

-- sent: it was handed over; what a secret one said is not kept
UPDATE mail SET sent_at = %(now)s, problem = '', body = CASE WHEN starts_with(key, %(secret)s) THEN '' ELSE body END
WHERE id = %(mail)s;

-- refused: offer a message again later, each time twice as much later, and after the last try no more
UPDATE mail SET problem = %(problem)s, tries = tries + 1, next_try_at = now() + %(wait)s::interval * (1 << least(tries, 20)),
  given_up_at = CASE WHEN tries + 1 >= %(most)s OR %(for_good)s THEN now() END
WHERE id = %(mail)s AND sent_at IS NULL;

-- nobody_there: there was no mail server to offer anything to; old news is given up
UPDATE mail SET problem = %(problem)s, given_up_at = CASE WHEN made_at < now() - %(old)s::interval THEN now() END
WHERE sent_at IS NULL AND given_up_at IS NULL;

-- offer_again: begin anew with what was given up
UPDATE mail SET given_up_at = NULL, tries = 0, next_try_at = now() WHERE given_up_at IS NOT NULL;

-- counts: how many messages wait, and how many were given up
SELECT count(*) FILTER (WHERE given_up_at IS NULL), count(given_up_at) FROM mail WHERE sent_at IS NULL;
