-- Ways in: attempts that are counted before a password is read, logins that are listed and end when nobody uses them, a second step,
-- links for those who lost their password, passes from one day to another, and a log of who did what to accounts and to the whole.

-- Attempts. Whoever asks how often a key was tried holds it until the end of the transaction, so that two cannot ask at once.
DROP FUNCTION auth_failures(text, integer);
DROP FUNCTION auth_note_failure(text);
DROP INDEX login_attempt_by_key;
ALTER TABLE login_attempt ADD COLUMN id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY;
CREATE INDEX login_attempt_by_key ON login_attempt (key, at DESC);
CREATE INDEX login_attempt_by_age ON login_attempt (at);

CREATE FUNCTION auth_attempts(p_keys text[], p_minutes integer)
RETURNS TABLE (key text, failures bigint, since_s double precision)
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
DECLARE one text;
BEGIN
  FOR one IN SELECT DISTINCT k FROM unnest(p_keys) k ORDER BY k LOOP
    PERFORM pg_advisory_xact_lock(hashtextextended('attempt ' || one, 0));
  END LOOP;
  RETURN QUERY
    SELECT t.key, count(*), extract(epoch FROM clock_timestamp() - max(t.at))::double precision
    FROM login_attempt t WHERE t.key = ANY (p_keys) AND t.at > clock_timestamp() - make_interval(mins => p_minutes) GROUP BY t.key;
END $$;

CREATE FUNCTION auth_note_attempt(p_keys text[]) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  DELETE FROM login_attempt t WHERE t.at < clock_timestamp() - interval '1 day';
  INSERT INTO login_attempt (key, at) SELECT DISTINCT k, clock_timestamp() FROM unnest(p_keys) k;
$$;

-- The attempt was right: these keys begin anew, and of those only this one attempt is taken back.
CREATE FUNCTION auth_attempt_was_right(p_anew text[], p_one_less text[]) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  DELETE FROM login_attempt t WHERE t.key = ANY (p_anew)
    OR t.id IN (SELECT max(o.id) FROM login_attempt o WHERE o.key = ANY (p_one_less) GROUP BY o.key);
$$;

-- Logins. A pass is held by its own secret from now on, so a session is always an account's.
DROP FUNCTION auth_open_pass(bytea, bytea);
DROP FUNCTION auth_session(bytea);
DELETE FROM login_session WHERE account_id IS NULL;
ALTER TABLE login_session
  DROP COLUMN pass_id,
  ALTER COLUMN account_id SET NOT NULL,
  ADD COLUMN id uuid NOT NULL DEFAULT gen_random_uuid(),
  ADD COLUMN browser text NOT NULL DEFAULT '' CONSTRAINT login_session_browser_length CHECK (length(browser) <= 80),
  ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now(),
  ADD COLUMN idle_end interval NOT NULL DEFAULT interval '7 days',
  ADD COLUMN first_from_browser boolean NOT NULL DEFAULT false,
  ADD CONSTRAINT login_session_named_once UNIQUE (id);
CREATE INDEX login_session_by_account ON login_session (account_id);

-- Second step and recovery.
ALTER TABLE account
  ADD COLUMN totp_secret text CONSTRAINT account_totp_secret_shape CHECK (totp_secret ~ '^[A-Z2-7]{32}$'),
  ADD COLUMN totp_step bigint;

CREATE TABLE recovery_code (
  account_id  uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
  code_hash   bytea NOT NULL,
  PRIMARY KEY (account_id, code_hash)
);

CREATE TABLE reset_link (
  token_hash  bytea PRIMARY KEY,
  account_id  uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
  expires_at  timestamptz NOT NULL
);
CREATE INDEX reset_link_by_account ON reset_link (account_id);

-- Who did what: written once, read by coordinators, never changed by the application.
CREATE TABLE audit_entry (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          bigint GENERATED ALWAYS AS IDENTITY,
  at          timestamptz NOT NULL DEFAULT clock_timestamp(),
  account_id  uuid REFERENCES account (id),
  subject_id  uuid REFERENCES account (id),  -- the person it was done to, so that a name goes with its account
  what        text NOT NULL CONSTRAINT audit_entry_what_known CHECK (what IN
    ('login', 'login from new browser', 'password changed', 'second step on', 'second step off', 'recovery code used',
     'recovery link made', 'recovery link used', 'session ended', 'invited', 'invitation taken back', 'joined', 'role changed', 'let go',
     'erased', 'pass made', 'pass taken back', 'exported', 'restored', 'calendar address made', 'letter published')),
  about       text NOT NULL DEFAULT '' CONSTRAINT audit_entry_about_length CHECK (length(about) <= 200),
  PRIMARY KEY (school_id, id)
);
CREATE INDEX audit_entry_by_time ON audit_entry (school_id, at DESC);
ALTER TABLE audit_entry ENABLE ROW LEVEL SECURITY;
CREATE POLICY own_school ON audit_entry USING (school_id = current_setting('almanaque.school')::uuid);

-- Write into the logs of all schools that an account belongs to, or of one of them: what it does before any of them is chosen.
CREATE FUNCTION auth_audit(p_account uuid, p_school uuid, p_what text, p_about text) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  INSERT INTO audit_entry (school_id, account_id, what, about)
  SELECT m.school_id, p_account, p_what, left(p_about, 200) FROM membership m
  WHERE m.account_id = p_account AND (p_school IS NULL OR m.school_id = p_school)
$$;

-- Entries of the transaction's school that are older than this are forgotten.
CREATE FUNCTION auth_forget_audit(p_days integer) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  DELETE FROM audit_entry e WHERE e.school_id = current_setting('almanaque.school')::uuid AND e.at < now() - make_interval(days => p_days)
$$;

-- The log of the transaction's school, newest first, with names as they are today.
CREATE FUNCTION auth_audit_entries(p_limit integer)
RETURNS TABLE (id bigint, at timestamptz, name text, what text, subject text, about text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT e.id, e.at, coalesce(a.name, ''), e.what, coalesce(o.name, ''), e.about
  FROM audit_entry e LEFT JOIN account a ON a.id = e.account_id LEFT JOIN account o ON o.id = e.subject_id
  WHERE e.school_id = current_setting('almanaque.school')::uuid ORDER BY e.at DESC, e.id DESC LIMIT p_limit
$$;

DROP FUNCTION auth_account(text);
CREATE FUNCTION auth_account(p_login text)
RETURNS TABLE (account_id uuid, password_hash text, totp_secret text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT a.id, a.password_hash, coalesce(a.totp_secret, '') FROM account a WHERE a.login = lower(p_login) AND a.erased_at IS NULL
$$;

-- The same by the account itself: for whoever has given the password and still owes the second step.
CREATE FUNCTION auth_account_by_id(p_account uuid)
RETURNS TABLE (account_id uuid, password_hash text, totp_secret text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT a.id, a.password_hash, coalesce(a.totp_secret, '') FROM account a WHERE a.id = p_account AND a.erased_at IS NULL
$$;

-- Open a session in the account's first school; false when the account belongs to no school.
DROP FUNCTION auth_open_session(bytea, uuid, timestamptz);
CREATE FUNCTION auth_open_session(p_token_hash bytea, p_account uuid, p_expires timestamptz, p_browser text, p_idle interval, p_new boolean)
RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  DELETE FROM login_session s WHERE s.expires_at < now() OR s.seen_at + s.idle_end < now();
  WITH opened AS (
    INSERT INTO login_session (token_hash, account_id, school_id, expires_at, browser, idle_end, first_from_browser)
    SELECT p_token_hash, m.account_id, m.school_id, p_expires, left(p_browser, 80), p_idle, p_new
    FROM membership m JOIN school s ON s.id = m.school_id
    WHERE m.account_id = p_account ORDER BY s.created_at, s.name LIMIT 1
    RETURNING 1)
  SELECT EXISTS (SELECT FROM opened);
$$;

-- Everything a page needs to know of the visitor, in one look; nothing once session or membership is over, or nobody used it for long.
-- That it was used is written down every five minutes. `noticed` counts other logins of the account by browsers that it did not know:
-- all of them for a browser that it knows, and for one that it does not those that came later.
CREATE FUNCTION auth_session(p_token_hash bytea)
RETURNS TABLE (account_id uuid, account_name text, school_id uuid, role text, demo_day date, schools bigint,
               pass_id uuid, pass_group uuid, noticed bigint)
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  UPDATE login_session s SET seen_at = now()
  WHERE s.token_hash = p_token_hash AND s.seen_at < now() - interval '5 minutes' AND s.seen_at + s.idle_end > now();
  SELECT a.id, a.name, s.school_id, m.role, s.demo_day,
         (SELECT count(*) FROM membership o WHERE o.account_id = a.id), NULL::uuid, NULL::uuid,
         (SELECT count(*) FROM login_session o
          WHERE o.account_id = a.id AND o.first_from_browser AND o.token_hash <> s.token_hash
            AND (NOT s.first_from_browser OR o.created_at > s.created_at))
  FROM login_session s
  JOIN account a ON a.id = s.account_id
  JOIN membership m ON m.account_id = s.account_id AND m.school_id = s.school_id
  WHERE s.token_hash = p_token_hash AND s.expires_at > now() AND s.seen_at + s.idle_end > now() AND a.erased_at IS NULL
$$;

-- Passes: the secret in the link is what the browser holds, so looking at a link writes nothing.
ALTER TABLE garden_pass
  ADD COLUMN opens_at timestamptz NOT NULL DEFAULT now();

CREATE FUNCTION auth_pass(p_token_hash bytea)
RETURNS TABLE (account_id uuid, account_name text, school_id uuid, role text, demo_day date, schools bigint,
               pass_id uuid, pass_group uuid, noticed bigint)
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  UPDATE garden_pass p SET used_at = now()
  WHERE p.token_hash = p_token_hash AND p.opens_at <= now() AND (p.used_at IS NULL OR p.used_at < now() - interval '5 minutes');
  SELECT NULL::uuid, p.label, p.school_id, 'pass', NULL::date, 1::bigint, p.id, p.class_group_id, 0::bigint
  FROM garden_pass p
  WHERE p.token_hash = p_token_hash AND p.opens_at <= now() AND p.expires_at > now() AND p.revoked_at IS NULL
$$;

-- Who took a round, so that others leave it alone.
ALTER TABLE carer_round ADD COLUMN account_id uuid REFERENCES account (id);

-- Whether a pass opens, and from when: nothing for one that is unknown, over or taken back.
CREATE FUNCTION auth_pass_opens(p_token_hash bytea) RETURNS timestamptz
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT p.opens_at FROM garden_pass p WHERE p.token_hash = p_token_hash AND p.expires_at > now() AND p.revoked_at IS NULL
$$;

-- The logins of a session's account; the session's own comes first.
CREATE FUNCTION auth_sessions(p_token_hash bytea)
RETURNS TABLE (id uuid, browser text, begun_at timestamptz, seen_at timestamptz, own boolean, new boolean)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT o.id, o.browser, o.created_at, o.seen_at, o.token_hash = s.token_hash,
         o.first_from_browser AND o.token_hash <> s.token_hash AND (NOT s.first_from_browser OR o.created_at > s.created_at)
  FROM login_session s JOIN login_session o ON o.account_id = s.account_id
  WHERE s.token_hash = p_token_hash AND o.expires_at > now() AND o.seen_at + o.idle_end > now()
  ORDER BY o.token_hash = s.token_hash DESC, o.seen_at DESC
$$;

-- End another login of a session's account, or all others; how many ended.
CREATE FUNCTION auth_end_sessions(p_token_hash bytea, p_id uuid) RETURNS bigint
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  WITH gone AS (
    DELETE FROM login_session o USING login_session s
    WHERE s.token_hash = p_token_hash AND o.account_id = s.account_id AND o.token_hash <> s.token_hash AND (p_id IS NULL OR o.id = p_id)
    RETURNING 1)
  SELECT count(*) FROM gone
$$;

-- It was me: logins by browsers that were new are new no more.
CREATE FUNCTION auth_sessions_known(p_token_hash bytea) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  UPDATE login_session o SET first_from_browser = false FROM login_session s
  WHERE s.token_hash = p_token_hash AND o.account_id = s.account_id AND o.first_from_browser
$$;

DROP FUNCTION auth_own_account(bytea);
CREATE FUNCTION auth_own_account(p_token_hash bytea)
RETURNS TABLE (account_id uuid, login text, name text, password_hash text, totp_secret text, codes_left bigint)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT a.id, a.login, a.name, a.password_hash, coalesce(a.totp_secret, ''), (SELECT count(*) FROM recovery_code c WHERE c.account_id = a.id)
  FROM login_session s JOIN account a ON a.id = s.account_id
  WHERE s.token_hash = p_token_hash AND s.expires_at > now() AND s.seen_at + s.idle_end > now()
$$;

-- A code of this step of time was given: true once, and never again for it or an earlier one.
CREATE FUNCTION auth_use_step(p_account uuid, p_step bigint) RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  WITH used AS (UPDATE account a SET totp_step = p_step WHERE a.id = p_account AND coalesce(a.totp_step, -1) < p_step RETURNING 1)
  SELECT EXISTS (SELECT FROM used)
$$;

CREATE FUNCTION auth_use_recovery_code(p_account uuid, p_hash bytea) RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  WITH used AS (DELETE FROM recovery_code c WHERE c.account_id = p_account AND c.code_hash = p_hash RETURNING 1)
  SELECT EXISTS (SELECT FROM used)
$$;

-- Set the second step of a session's account with its recovery codes, or take it away (NULL).
CREATE FUNCTION auth_set_second_step(p_token_hash bytea, p_secret text, p_step bigint, p_codes bytea[]) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
DECLARE own uuid;
BEGIN
  SELECT s.account_id INTO own FROM login_session s WHERE s.token_hash = p_token_hash AND s.expires_at > now();
  UPDATE account SET totp_secret = p_secret, totp_step = p_step WHERE id = own;
  DELETE FROM recovery_code WHERE account_id = own;
  INSERT INTO recovery_code (account_id, code_hash) SELECT own, c FROM unnest(p_codes) c;
END $$;

-- A link to a new password for a person of the transaction's school who belongs to no other; false for anybody else.
CREATE FUNCTION auth_make_reset(p_account uuid, p_token_hash bytea, p_expires timestamptz) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
DECLARE here uuid := current_setting('almanaque.school')::uuid;
BEGIN
  IF NOT EXISTS (SELECT FROM membership m WHERE m.account_id = p_account AND m.school_id = here)
     OR EXISTS (SELECT FROM membership m WHERE m.account_id = p_account AND m.school_id <> here) THEN
    RETURN false;
  END IF;
  DELETE FROM reset_link r WHERE r.account_id = p_account OR r.expires_at < now();
  INSERT INTO reset_link (token_hash, account_id, expires_at) VALUES (p_token_hash, p_account, p_expires);
  RETURN true;
END $$;

-- The same for whoever logs in by an address of mail: the school whose mail carries it; nothing for an unknown login.
CREATE FUNCTION auth_make_reset_by_mail(p_login text, p_token_hash bytea, p_expires timestamptz) RETURNS uuid
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
DECLARE own uuid; home uuid;
BEGIN
  SELECT a.id INTO own FROM account a WHERE a.login = lower(p_login) AND a.erased_at IS NULL;
  SELECT m.school_id INTO home FROM membership m JOIN school s ON s.id = m.school_id
  WHERE m.account_id = own ORDER BY s.created_at, s.name LIMIT 1;
  IF home IS NULL THEN RETURN NULL; END IF;
  DELETE FROM reset_link r WHERE r.account_id = own OR r.expires_at < now();
  INSERT INTO reset_link (token_hash, account_id, expires_at) VALUES (p_token_hash, own, p_expires);
  RETURN home;
END $$;

CREATE FUNCTION auth_reset_link(p_token_hash bytea) RETURNS TABLE (login text, second_step boolean)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  SELECT a.login, a.totp_secret IS NOT NULL FROM reset_link r JOIN account a ON a.id = r.account_id
  WHERE r.token_hash = p_token_hash AND r.expires_at > now()
$$;

-- Use a link: the new password holds, every login and the second step end. The account, or nothing for a link that is over.
CREATE FUNCTION auth_use_reset(p_token_hash bytea, p_password_hash text) RETURNS uuid
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
DECLARE own uuid;
BEGIN
  DELETE FROM reset_link r WHERE r.token_hash = p_token_hash AND r.expires_at > now() RETURNING r.account_id INTO own;
  IF own IS NULL THEN RETURN NULL; END IF;
  UPDATE account SET password_hash = p_password_hash, totp_secret = NULL, totp_step = NULL WHERE id = own;
  DELETE FROM recovery_code WHERE account_id = own;
  DELETE FROM login_session WHERE account_id = own;
  DELETE FROM reset_link WHERE account_id = own;
  RETURN own;
END $$;

-- Erase an account, as before; what it logged in with goes too.
CREATE OR REPLACE FUNCTION auth_erase(p_account uuid) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
BEGIN
  PERFORM 1 FROM membership m WHERE m.role = 'coordinator'
    AND m.school_id IN (SELECT o.school_id FROM membership o WHERE o.account_id = p_account) FOR UPDATE;
  IF EXISTS (
      SELECT FROM membership m WHERE m.account_id = p_account AND m.role = 'coordinator'
        AND NOT EXISTS (SELECT FROM membership o WHERE o.school_id = m.school_id AND o.role = 'coordinator' AND o.account_id <> p_account)) THEN
    RETURN false;
  END IF;
  DELETE FROM membership m WHERE m.account_id = p_account;
  DELETE FROM login_session s WHERE s.account_id = p_account;
  DELETE FROM recovery_code c WHERE c.account_id = p_account;
  DELETE FROM reset_link r WHERE r.account_id = p_account;
  UPDATE account SET name = 'somebody who has left', login = 'erased-' || replace(id::text, '-', ''), password_hash = '!',
    totp_secret = NULL, totp_step = NULL, erased_at = now()
  WHERE id = p_account;
  RETURN FOUND;
END $$;

-- What came of a form that somebody sent before being logged in, by its number and content: sent twice, it is done once and lets in twice.
CREATE TABLE entered_once (
  id          uuid PRIMARY KEY,
  account_id  uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
  school_id   uuid REFERENCES school (id) ON DELETE CASCADE,  -- none: the account's first one
  at          timestamptz NOT NULL DEFAULT now()
);

-- Whom a form has let in already, and where; whoever asks holds its number until the end of the transaction.
CREATE FUNCTION auth_entered(p_id uuid) RETURNS TABLE (account_id uuid, login text, school_id uuid)
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
BEGIN
  PERFORM pg_advisory_xact_lock(hashtextextended('entered ' || p_id, 0));
  RETURN QUERY SELECT e.account_id, a.login, e.school_id FROM entered_once e JOIN account a ON a.id = e.account_id
    WHERE e.id = p_id AND e.at > now() - interval '1 hour' AND a.erased_at IS NULL;
END $$;

CREATE FUNCTION auth_note_entered(p_id uuid, p_account uuid, p_school uuid) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
  DELETE FROM entered_once e WHERE e.at < now() - interval '1 hour';
  INSERT INTO entered_once (id, account_id, school_id) VALUES (p_id, p_account, p_school)
$$;
