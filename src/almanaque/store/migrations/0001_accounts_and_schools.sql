-- Who may enter, and which school a row belongs to. Accounts, login sessions and attempts are global: the
-- application's role has no right on them and reaches them only through the functions at the end, each of which
-- asks for the secret (the hash of a session token) or for a login name.
CREATE SCHEMA extensions;
CREATE EXTENSION btree_gist SCHEMA extensions;

CREATE TABLE school (
  id              uuid PRIMARY KEY,
  name            text NOT NULL CONSTRAINT school_name_given CHECK (name ~ '\S' AND length(name) <= 120),
  setting         text NOT NULL DEFAULT '',
  zone            text NOT NULL,
  latitude        double precision NOT NULL CONSTRAINT school_latitude_on_earth CHECK (latitude BETWEEN -90 AND 90),
  longitude       double precision NOT NULL CONSTRAINT school_longitude_on_earth CHECK (longitude BETWEEN -180 AND 180),
  units           text NOT NULL CONSTRAINT school_units_known CHECK (units IN ('us', 'metric')),
  theme           text NOT NULL DEFAULT '',
  weather_source  text NOT NULL DEFAULT '',
  weather_digest  text NOT NULL DEFAULT '',
  created_at      timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE account (
  id             uuid PRIMARY KEY,
  login          text NOT NULL CONSTRAINT account_login_shape CHECK (login = lower(login) AND login ~ '^[a-z0-9._@+-]{3,120}$'),
  name           text NOT NULL CONSTRAINT account_name_given CHECK (name ~ '\S' AND length(name) <= 120),
  password_hash  text NOT NULL,
  created_at     timestamptz NOT NULL DEFAULT now(),
  CONSTRAINT account_login_once UNIQUE (login)
);

CREATE TABLE membership (
  school_id   uuid NOT NULL REFERENCES school (id),
  account_id  uuid NOT NULL REFERENCES account (id),
  role        text NOT NULL CONSTRAINT membership_role_known CHECK (role IN ('coordinator', 'educator', 'helper', 'viewer')),
  PRIMARY KEY (school_id, account_id)
);

CREATE TABLE login_session (
  token_hash  bytea PRIMARY KEY,
  account_id  uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
  school_id   uuid NOT NULL REFERENCES school (id),
  demo_day    date,
  expires_at  timestamptz NOT NULL,
  created_at  timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE login_attempt (
  key  text NOT NULL,
  at   timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX login_attempt_by_key ON login_attempt (key, at);

-- A login name's account; nothing for an unknown one.
CREATE FUNCTION auth_account(p_login text)
RETURNS TABLE (account_id uuid, password_hash text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT a.id, a.password_hash FROM account a WHERE a.login = lower(p_login)
$$;

-- How often this key (a login name or an address) failed within the last minutes.
CREATE FUNCTION auth_failures(p_key text, p_minutes integer) RETURNS bigint
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT count(*) FROM login_attempt t WHERE t.key = p_key AND t.at > now() - make_interval(mins => p_minutes)
$$;

CREATE FUNCTION auth_note_failure(p_key text) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  DELETE FROM login_attempt t WHERE t.at < now() - interval '1 day';
  INSERT INTO login_attempt (key) VALUES (p_key);
$$;

-- Open a session in the account's first school; false when the account belongs to no school.
CREATE FUNCTION auth_open_session(p_token_hash bytea, p_account uuid, p_expires timestamptz) RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  DELETE FROM login_session s WHERE s.expires_at < now();
  WITH opened AS (
    INSERT INTO login_session (token_hash, account_id, school_id, expires_at)
    SELECT p_token_hash, m.account_id, m.school_id, p_expires
    FROM membership m JOIN school s ON s.id = m.school_id
    WHERE m.account_id = p_account ORDER BY s.created_at, s.name LIMIT 1
    RETURNING 1)
  SELECT EXISTS (SELECT FROM opened);
$$;

-- Everything a page needs to know of the visitor, in one look; nothing once the session or the membership is over.
CREATE FUNCTION auth_session(p_token_hash bytea)
RETURNS TABLE (account_id uuid, account_name text, school_id uuid, role text, demo_day date, schools bigint)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT a.id, a.name, s.school_id, m.role, s.demo_day,
         (SELECT count(*) FROM membership o WHERE o.account_id = a.id)
  FROM login_session s
  JOIN account a ON a.id = s.account_id
  JOIN membership m ON m.account_id = s.account_id AND m.school_id = s.school_id
  WHERE s.token_hash = p_token_hash AND s.expires_at > now()
$$;

CREATE FUNCTION auth_schools(p_token_hash bytea)
RETURNS TABLE (school_id uuid, school_name text, role text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT m.school_id, c.name, m.role
  FROM login_session s
  JOIN membership m ON m.account_id = s.account_id
  JOIN school c ON c.id = m.school_id
  WHERE s.token_hash = p_token_hash AND s.expires_at > now()
  ORDER BY c.created_at, c.name
$$;

-- True when the account belongs to that school; otherwise nothing changes.
CREATE FUNCTION auth_choose_school(p_token_hash bytea, p_school uuid) RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  WITH moved AS (
    UPDATE login_session s SET school_id = p_school
    WHERE s.token_hash = p_token_hash
      AND EXISTS (SELECT FROM membership m WHERE m.account_id = s.account_id AND m.school_id = p_school)
    RETURNING 1)
  SELECT EXISTS (SELECT FROM moved)
$$;

CREATE FUNCTION auth_set_demo_day(p_token_hash bytea, p_day date) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  UPDATE login_session s SET demo_day = p_day WHERE s.token_hash = p_token_hash
$$;

CREATE FUNCTION auth_close_session(p_token_hash bytea) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  DELETE FROM login_session s WHERE s.token_hash = p_token_hash
$$;

-- Names and roles of the people of the school that the transaction is set to.
CREATE FUNCTION auth_people()
RETURNS TABLE (account_id uuid, name text, login text, role text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT a.id, a.name, a.login, m.role FROM membership m JOIN account a ON a.id = m.account_id
  WHERE m.school_id = current_setting('almanaque.school')::uuid ORDER BY a.name
$$;

ALTER TABLE school ENABLE ROW LEVEL SECURITY;
CREATE POLICY own_school ON school USING (id = current_setting('almanaque.school')::uuid);
ALTER TABLE membership ENABLE ROW LEVEL SECURITY;
CREATE POLICY own_school ON membership USING (school_id = current_setting('almanaque.school')::uuid);
