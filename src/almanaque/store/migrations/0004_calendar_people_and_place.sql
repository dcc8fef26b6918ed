-- The facts on which later answers stand: a calendar with half days, programmes and sudden closures; groups that arrive and
-- leave; people who are invited, helped by passes, and erased; weather by source with gaps; the choosing of a place.
ALTER TABLE school
  ADD COLUMN grade_word    text NOT NULL DEFAULT 'Grade'
    CONSTRAINT school_grade_word_given CHECK (grade_word ~ '\S' AND length(grade_word) <= 20),
  ADD COLUMN first_grade   integer NOT NULL DEFAULT 0 CONSTRAINT school_first_grade_sane CHECK (first_grade BETWEEN 0 AND 13),
  ADD COLUMN last_grade    integer NOT NULL DEFAULT 5 CONSTRAINT school_last_grade_sane CHECK (last_grade BETWEEN 0 AND 14),
  ADD COLUMN place_name    text NOT NULL DEFAULT '' CONSTRAINT school_place_name_length CHECK (length(place_name) <= 120);

-- The calendar
ALTER TABLE term ADD COLUMN kind text NOT NULL DEFAULT 'term'
  CONSTRAINT term_kind_known CHECK (kind IN ('term', 'summer programme'));
ALTER TABLE closure ADD COLUMN kind text NOT NULL DEFAULT 'break'
  CONSTRAINT closure_kind_known CHECK (kind IN ('break', 'holiday', 'training day', 'weather', 'until further notice'));
UPDATE closure SET kind = 'holiday' WHERE starts = ends;
-- A closure that nobody planned may lie over a break that somebody did.
ALTER TABLE closure DROP CONSTRAINT closure_no_overlap;
ALTER TABLE closure ADD CONSTRAINT closure_no_overlap EXCLUDE USING gist
  (school_id WITH =, school_year_id WITH =, daterange(starts, ends, '[]') WITH &&)
  WHERE (kind NOT IN ('weather', 'until further notice'));

CREATE TABLE half_day (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  school_year_id  uuid NOT NULL,
  name            text NOT NULL CONSTRAINT half_day_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  on_day          date NOT NULL,
  until           time NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, school_year_id) REFERENCES school_year (school_id, id) ON DELETE CASCADE,
  CONSTRAINT half_day_once UNIQUE (school_id, on_day)
);

-- Words by which a school's own calendar file names things.
CREATE TABLE calendar_word (
  school_id  uuid NOT NULL REFERENCES school (id),
  kind       text NOT NULL,
  phrase     text NOT NULL CONSTRAINT calendar_word_given CHECK (phrase ~ '\S' AND length(phrase) <= 60),
  PRIMARY KEY (school_id, kind, phrase)
);

-- A file between being sent and being confirmed; gone after a day.
CREATE TABLE upload (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  purpose    text NOT NULL CONSTRAINT upload_purpose_known CHECK (purpose IN ('calendar', 'weather')),
  name       text NOT NULL,
  source     text NOT NULL DEFAULT '',
  body       bytea NOT NULL,
  sent_at    timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id)
);

-- A private address under which calendar programs read along; only the token's hash is kept.
CREATE TABLE calendar_feed (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          uuid NOT NULL,
  label       text NOT NULL CONSTRAINT calendar_feed_label_given CHECK (label ~ '\S' AND length(label) <= 80),
  what        text NOT NULL CONSTRAINT calendar_feed_what_known CHECK (what IN ('calendar', 'plan', 'both')),
  token_hash  bytea NOT NULL,
  made_by     uuid REFERENCES account (id),
  made_at     timestamptz NOT NULL DEFAULT now(),
  revoked_at  timestamptz,
  read_at     timestamptz,
  PRIMARY KEY (school_id, id),
  CONSTRAINT calendar_feed_token_once UNIQUE (token_hash)
);

-- Groups
ALTER TABLE class_group
  ADD COLUMN kind     text NOT NULL DEFAULT 'class' CONSTRAINT class_group_kind_known
    CHECK (kind IN ('class', 'club', 'mixed class', 'special class', 'whole school', 'guests')),
  ADD COLUMN led_by   text NOT NULL DEFAULT '' CONSTRAINT class_group_led_by_length CHECK (length(led_by) <= 80),
  ADD COLUMN closed_on date;
UPDATE class_group SET kind = 'club' WHERE entry_year IS NULL;
ALTER TABLE class_group ADD CONSTRAINT class_group_entry_year_sane CHECK (entry_year BETWEEN 1950 AND 2150);
ALTER TABLE class_group ADD CONSTRAINT class_group_class_has_entry_year CHECK ((kind = 'class') = (entry_year IS NOT NULL));

ALTER TABLE slot
  ADD COLUMN from_day      date,
  ADD COLUMN to_day        date,
  ADD COLUMN in_terms      boolean NOT NULL DEFAULT true,
  ADD COLUMN in_programme  boolean NOT NULL DEFAULT false;
ALTER TABLE slot ADD CONSTRAINT slot_ends_after_start CHECK (to_day >= from_day);
ALTER TABLE slot ADD CONSTRAINT slot_held_sometime CHECK (in_terms OR in_programme);

-- What a group may not handle; what someone in it must not touch or eat. Never with a name.
CREATE TABLE group_flag (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  class_group_id  uuid NOT NULL,
  kind            text NOT NULL CONSTRAINT group_flag_kind_known CHECK (kind IN ('may not handle', 'must not touch', 'must not eat')),
  what            text NOT NULL CONSTRAINT group_flag_what_given CHECK (what ~ '\S' AND length(what) <= 60),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE
);

CREATE TABLE team (
  school_id       uuid NOT NULL,
  id              uuid NOT NULL,
  class_group_id  uuid NOT NULL,
  name            text NOT NULL CONSTRAINT team_name_given CHECK (name ~ '\S' AND length(name) <= 60),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE,
  CONSTRAINT team_once UNIQUE (school_id, class_group_id, name)
);

-- People
ALTER TABLE membership DROP CONSTRAINT membership_role_known;
ALTER TABLE membership ADD CONSTRAINT membership_role_known
  CHECK (role IN ('coordinator', 'educator', 'helper', 'carer', 'viewer'));
ALTER TABLE account ADD COLUMN erased_at timestamptz;

-- A link by which a person joins a school; with no school it lets a person found one.
CREATE TABLE invitation (
  id          uuid PRIMARY KEY,
  school_id   uuid REFERENCES school (id),
  token_hash  bytea NOT NULL,
  role        text NOT NULL CONSTRAINT invitation_role_known CHECK (role IN ('coordinator', 'educator', 'helper', 'carer', 'viewer')),
  label       text NOT NULL CONSTRAINT invitation_label_given CHECK (label ~ '\S' AND length(label) <= 80),
  made_by     uuid REFERENCES account (id),
  made_at     timestamptz NOT NULL DEFAULT now(),
  expires_at  timestamptz NOT NULL,
  used_at     timestamptz,
  revoked_at  timestamptz,
  CONSTRAINT invitation_token_once UNIQUE (token_hash)
);

-- A link without an account for one class or carer: notes, jobs and pickings, for some days, revocable.
CREATE TABLE garden_pass (
  school_id       uuid NOT NULL REFERENCES school (id),
  id              uuid NOT NULL,
  label           text NOT NULL CONSTRAINT garden_pass_label_given CHECK (label ~ '\S' AND length(label) <= 80),
  class_group_id  uuid,
  token_hash      bytea NOT NULL,
  made_by         uuid REFERENCES account (id),
  made_at         timestamptz NOT NULL DEFAULT now(),
  expires_at      timestamptz NOT NULL,
  revoked_at      timestamptz,
  used_at         timestamptz,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE CASCADE,
  CONSTRAINT garden_pass_token_once UNIQUE (token_hash)
);

-- A session is an account's or a pass's.
ALTER TABLE login_session ALTER COLUMN account_id DROP NOT NULL;
ALTER TABLE login_session ADD COLUMN pass_id uuid;
ALTER TABLE login_session ADD CONSTRAINT login_session_pass FOREIGN KEY (school_id, pass_id)
  REFERENCES garden_pass (school_id, id) ON DELETE CASCADE;
ALTER TABLE login_session ADD CONSTRAINT login_session_of_one CHECK ((account_id IS NULL) <> (pass_id IS NULL));

-- What a pass wrote keeps the pass that wrote it.
ALTER TABLE journal_entry ADD COLUMN pass_id uuid;
ALTER TABLE journal_entry ADD CONSTRAINT journal_entry_pass FOREIGN KEY (school_id, pass_id) REFERENCES garden_pass (school_id, id);
ALTER TABLE harvest ADD COLUMN pass_id uuid;
ALTER TABLE harvest ADD CONSTRAINT harvest_pass FOREIGN KEY (school_id, pass_id) REFERENCES garden_pass (school_id, id);
ALTER TABLE task ADD COLUMN pass_id uuid;
ALTER TABLE task ADD CONSTRAINT task_pass FOREIGN KEY (school_id, pass_id) REFERENCES garden_pass (school_id, id);

CREATE TABLE partner (
  school_id   uuid NOT NULL REFERENCES school (id),
  id          uuid NOT NULL,
  name        text NOT NULL CONSTRAINT partner_name_given CHECK (name ~ '\S' AND length(name) <= 120),
  kind        text NOT NULL CONSTRAINT partner_kind_known CHECK (kind IN ('hands', 'advice', 'materials', 'money', 'place')),
  gives       text NOT NULL DEFAULT '' CONSTRAINT partner_gives_length CHECK (length(gives) <= 400),
  contact     text NOT NULL DEFAULT '' CONSTRAINT partner_contact_length CHECK (length(contact) <= 200),
  asked_on    date,
  answer      text NOT NULL DEFAULT '' CONSTRAINT partner_answer_length CHECK (length(answer) <= 400),
  PRIMARY KEY (school_id, id)
);

-- Plans of stages
CREATE TABLE project (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  name       text NOT NULL CONSTRAINT project_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  template   text NOT NULL,
  starts     date NOT NULL,
  made_at    timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id)
);

CREATE TABLE stage (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  project_id  uuid NOT NULL,
  ordinal     integer NOT NULL,
  name        text NOT NULL CONSTRAINT stage_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  starts      date NOT NULL,
  ends        date NOT NULL,
  caution     text NOT NULL DEFAULT '',
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, project_id) REFERENCES project (school_id, id) ON DELETE CASCADE,
  CONSTRAINT stage_ends_after_start CHECK (ends >= starts)
);

CREATE TABLE stage_item (
  school_id  uuid NOT NULL,
  id         uuid NOT NULL,
  stage_id   uuid NOT NULL,
  ordinal    integer NOT NULL,
  kind       text NOT NULL CONSTRAINT stage_item_kind_known CHECK (kind IN ('to do', 'material', 'tool', 'person')),
  what       text NOT NULL CONSTRAINT stage_item_what_given CHECK (what ~ '\S' AND length(what) <= 200),
  who        text NOT NULL DEFAULT '' CONSTRAINT stage_item_who_length CHECK (length(who) <= 80),
  done_on    date,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, stage_id) REFERENCES stage (school_id, id) ON DELETE CASCADE
);

-- Weather by source, with gaps
CREATE TABLE weather_source (
  school_id  uuid NOT NULL REFERENCES school (id),
  name       text NOT NULL CONSTRAINT weather_source_name_given CHECK (name ~ '\S' AND length(name) <= 60),
  kind       text NOT NULL CONSTRAINT weather_source_kind_known CHECK (kind IN ('garden', 'region', 'simulated')),
  about      text NOT NULL DEFAULT '' CONSTRAINT weather_source_about_length CHECK (length(about) <= 400),
  PRIMARY KEY (school_id, name)
);
INSERT INTO weather_source (school_id, name, kind)
  SELECT DISTINCT school_id, source, CASE WHEN source = 'simulated station' THEN 'simulated' ELSE 'region' END FROM weather_day;
ALTER TABLE weather_day
  ALTER COLUMN tmin_c DROP NOT NULL,
  ALTER COLUMN tmax_c DROP NOT NULL,
  ALTER COLUMN rain_mm DROP NOT NULL,
  ADD COLUMN wind_ms    real CONSTRAINT weather_day_wind_sane CHECK (wind_ms BETWEEN 0 AND 120),
  ADD COLUMN wind_from  text CONSTRAINT weather_day_wind_from_known CHECK (wind_from IN
    ('N','NNE','NE','ENE','E','ESE','SE','SSE','S','SSW','SW','WSW','W','WNW','NW','NNW','calm')),
  ADD COLUMN soil_c     real CONSTRAINT weather_day_soil_sane CHECK (soil_c BETWEEN -60 AND 60),
  ADD COLUMN by_hand    boolean NOT NULL DEFAULT false,
  DROP CONSTRAINT weather_day_school_id_fkey,  -- a source belongs to a school, so one check for each reading is enough
  DROP CONSTRAINT weather_day_sane,
  ADD CONSTRAINT weather_day_sane CHECK (tmin_c <= tmax_c AND tmin_c >= -90 AND tmax_c <= 60 AND rain_mm BETWEEN 0 AND 2000),
  ADD CONSTRAINT weather_day_something CHECK (num_nonnulls(tmin_c, tmax_c, rain_mm, wind_ms, soil_c) + num_nonnulls(wind_from) > 0),
  ADD CONSTRAINT weather_day_source FOREIGN KEY (school_id, source) REFERENCES weather_source (school_id, name) ON UPDATE CASCADE;

-- Freeze dates that somebody typed, as MM-DD; for schools without a weather record.
CREATE TABLE typed_freeze (
  school_id    uuid PRIMARY KEY REFERENCES school (id),
  last_usual   text CONSTRAINT typed_freeze_last_usual_day CHECK (last_usual ~ '^\d\d-\d\d$'),
  last_late    text CONSTRAINT typed_freeze_last_late_day CHECK (last_late ~ '^\d\d-\d\d$'),
  first_early  text CONSTRAINT typed_freeze_first_early_day CHECK (first_early ~ '^\d\d-\d\d$'),
  first_usual  text CONSTRAINT typed_freeze_first_usual_day CHECK (first_usual ~ '^\d\d-\d\d$'),
  from_whom    text NOT NULL DEFAULT '' CONSTRAINT typed_freeze_from_whom_length CHECK (length(from_whom) <= 200)
);

-- The local office's chart: what is done with a crop in which month.
CREATE TABLE planting_chart (
  school_id  uuid NOT NULL REFERENCES school (id),
  crop       text NOT NULL CONSTRAINT planting_chart_crop_given CHECK (crop ~ '\S' AND length(crop) <= 60),
  month      integer NOT NULL CONSTRAINT planting_chart_month_known CHECK (month BETWEEN 1 AND 12),
  what       text NOT NULL CONSTRAINT planting_chart_what_known CHECK (what IN ('indoors', 'sow', 'set out', 'pick')),
  PRIMARY KEY (school_id, crop, month, what)
);

-- Choosing a place
CREATE TABLE candidate (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  ordinal    integer NOT NULL,
  name       text NOT NULL CONSTRAINT candidate_name_given CHECK (name ~ '\S' AND length(name) <= 80),
  kind       text NOT NULL,
  about      text NOT NULL DEFAULT '' CONSTRAINT candidate_about_length CHECK (length(about) <= 400),
  PRIMARY KEY (school_id, id)
);

CREATE TABLE criterion (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  ordinal    integer NOT NULL,
  name       text NOT NULL CONSTRAINT criterion_name_given CHECK (name ~ '\S' AND length(name) <= 60),
  weight     integer NOT NULL CONSTRAINT criterion_weight_sane CHECK (weight BETWEEN 0 AND 10),
  how        text NOT NULL DEFAULT '' CONSTRAINT criterion_how_length CHECK (length(how) <= 200),
  PRIMARY KEY (school_id, id)
);

CREATE TABLE rater (
  school_id       uuid NOT NULL REFERENCES school (id),
  id              uuid NOT NULL,
  name            text NOT NULL CONSTRAINT rater_name_given CHECK (name ~ '\S' AND length(name) <= 60),
  class_group_id  uuid,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, class_group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (class_group_id)
);

CREATE TABLE place_score (
  school_id     uuid NOT NULL,
  candidate_id  uuid NOT NULL,
  criterion_id  uuid NOT NULL,
  rater_id      uuid NOT NULL,
  score         integer NOT NULL CONSTRAINT place_score_sane CHECK (score BETWEEN 0 AND 5),
  evidence      text NOT NULL CONSTRAINT place_score_evidence_given CHECK (evidence ~ '\S' AND length(evidence) <= 400),
  PRIMARY KEY (school_id, candidate_id, criterion_id, rater_id),
  FOREIGN KEY (school_id, candidate_id) REFERENCES candidate (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, criterion_id) REFERENCES criterion (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, rater_id) REFERENCES rater (school_id, id) ON DELETE CASCADE
);

DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['half_day', 'calendar_word', 'upload', 'calendar_feed', 'group_flag', 'team', 'garden_pass',
      'partner', 'project', 'stage', 'stage_item', 'weather_source', 'typed_freeze', 'planting_chart', 'candidate', 'criterion',
      'rater', 'place_score'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_school ON %I USING (school_id = current_setting(''almanaque.school'')::uuid)', name);
  END LOOP;
END $$;

-- Everything a page needs to know of the visitor, in one look; nothing once session, membership or pass is over.
DROP FUNCTION auth_session(bytea);
CREATE FUNCTION auth_session(p_token_hash bytea)
RETURNS TABLE (account_id uuid, account_name text, school_id uuid, role text, demo_day date, schools bigint,
               pass_id uuid, pass_group uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT a.id, a.name, s.school_id, m.role, s.demo_day,
         (SELECT count(*) FROM membership o WHERE o.account_id = a.id), NULL::uuid, NULL::uuid
  FROM login_session s
  JOIN account a ON a.id = s.account_id
  JOIN membership m ON m.account_id = s.account_id AND m.school_id = s.school_id
  WHERE s.token_hash = p_token_hash AND s.expires_at > now() AND a.erased_at IS NULL
  UNION ALL
  SELECT NULL::uuid, p.label, p.school_id, 'pass', s.demo_day, 1, p.id, p.class_group_id
  FROM login_session s
  JOIN garden_pass p ON p.school_id = s.school_id AND p.id = s.pass_id
  WHERE s.token_hash = p_token_hash AND s.expires_at > now() AND p.expires_at > now() AND p.revoked_at IS NULL
$$;

CREATE OR REPLACE FUNCTION auth_account(p_login text)
RETURNS TABLE (account_id uuid, password_hash text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT a.id, a.password_hash FROM account a WHERE a.login = lower(p_login) AND a.erased_at IS NULL
$$;

-- Open a session for whoever holds a pass that is still good; false otherwise.
CREATE FUNCTION auth_open_pass(p_pass_hash bytea, p_token_hash bytea) RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  WITH good AS (
    UPDATE garden_pass p SET used_at = now()
    WHERE p.token_hash = p_pass_hash AND p.expires_at > now() AND p.revoked_at IS NULL
    RETURNING p.school_id, p.id, p.expires_at),
  opened AS (
    INSERT INTO login_session (token_hash, school_id, pass_id, expires_at)
    SELECT p_token_hash, g.school_id, g.id, g.expires_at FROM good g RETURNING 1)
  SELECT EXISTS (SELECT FROM opened)
$$;

-- The school whose calendar a private address shows, and what of it; nothing once it is revoked.
CREATE FUNCTION auth_feed(p_token_hash bytea) RETURNS TABLE (school_id uuid, what text)
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  UPDATE calendar_feed f SET read_at = now() WHERE f.token_hash = p_token_hash AND f.revoked_at IS NULL
  RETURNING f.school_id, f.what
$$;

-- An invitation that is still good, with the name of its school (empty: to found one).
CREATE FUNCTION auth_invitation(p_token_hash bytea) RETURNS TABLE (school_name text, role text, label text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT coalesce(c.name, ''), i.role, i.label FROM invitation i LEFT JOIN school c ON c.id = i.school_id
  WHERE i.token_hash = p_token_hash AND i.used_at IS NULL AND i.revoked_at IS NULL AND i.expires_at > now()
$$;

-- Invite somebody into the school of the transaction.
CREATE FUNCTION auth_invite(p_id uuid, p_token_hash bytea, p_role text, p_label text, p_by uuid, p_expires timestamptz) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  INSERT INTO invitation (id, school_id, token_hash, role, label, made_by, expires_at)
  VALUES (p_id, current_setting('almanaque.school')::uuid, p_token_hash, p_role, p_label, p_by, p_expires)
$$;

CREATE FUNCTION auth_invitations()
RETURNS TABLE (id uuid, role text, label text, made_at timestamptz, expires_at timestamptz)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT i.id, i.role, i.label, i.made_at, i.expires_at FROM invitation i
  WHERE i.school_id = current_setting('almanaque.school')::uuid AND i.used_at IS NULL AND i.revoked_at IS NULL AND i.expires_at > now()
  ORDER BY i.made_at
$$;

CREATE FUNCTION auth_revoke_invitation(p_id uuid) RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  WITH gone AS (
    UPDATE invitation i SET revoked_at = now()
    WHERE i.id = p_id AND i.school_id = current_setting('almanaque.school')::uuid AND i.used_at IS NULL RETURNING 1)
  SELECT EXISTS (SELECT FROM gone)
$$;

-- Make an account, nothing more: it belongs to no school until it accepts an invitation or founds one.
CREATE FUNCTION auth_make_account(p_id uuid, p_login text, p_name text, p_password_hash text) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  INSERT INTO account (id, login, name, password_hash) VALUES (p_id, lower(p_login), p_name, p_password_hash)
$$;

-- Use an invitation for an account: join its school; a person already there keeps the higher of the two roles. Returns the
-- school joined, or NULL for an invitation that is no longer good or that has no school.
CREATE FUNCTION auth_accept(p_token_hash bytea, p_account uuid) RETURNS uuid
LANGUAGE sql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  WITH taken AS (
    UPDATE invitation i SET used_at = now()
    WHERE i.token_hash = p_token_hash AND i.used_at IS NULL AND i.revoked_at IS NULL AND i.expires_at > now()
      AND i.school_id IS NOT NULL
    RETURNING i.school_id, i.role),
  joined AS (
    INSERT INTO membership AS m (school_id, account_id, role) SELECT t.school_id, p_account, t.role FROM taken t
    ON CONFLICT (school_id, account_id) DO UPDATE SET role = CASE
      WHEN array_position(ARRAY['viewer', 'carer', 'helper', 'educator', 'coordinator'], excluded.role)
         > array_position(ARRAY['viewer', 'carer', 'helper', 'educator', 'coordinator'], m.role) THEN excluded.role ELSE m.role END
    RETURNING m.school_id)
  SELECT school_id FROM joined
$$;

-- Found a school as its coordinator: allowed to a coordinator of another one, to whoever holds an invitation to found one,
-- and to everybody where the person who runs the server says so.
CREATE FUNCTION auth_found_school(p_account uuid, p_school uuid, p_name text, p_zone text, p_latitude double precision,
                                  p_longitude double precision, p_units text, p_place text, p_invitation bytea, p_open boolean) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE allowed boolean := p_open;
BEGIN
  IF p_invitation IS NOT NULL THEN
    UPDATE invitation SET used_at = now()
    WHERE token_hash = p_invitation AND used_at IS NULL AND revoked_at IS NULL AND expires_at > now() AND school_id IS NULL;
    allowed := allowed OR FOUND;
  END IF;
  allowed := allowed OR EXISTS (SELECT FROM membership m WHERE m.account_id = p_account AND m.role = 'coordinator');
  IF NOT allowed THEN RETURN false; END IF;
  INSERT INTO school (id, name, zone, latitude, longitude, units, place_name)
  VALUES (p_school, p_name, p_zone, p_latitude, p_longitude, p_units, p_place);
  INSERT INTO membership (school_id, account_id, role) VALUES (p_school, p_account, 'coordinator');
  RETURN true;
END $$;

-- Give a person of the transaction's school another role, or NULL to let them go; false when that would leave the school
-- without a coordinator, or when the person is not there.
CREATE FUNCTION auth_set_role(p_account uuid, p_role text) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE school uuid := current_setting('almanaque.school')::uuid;
BEGIN
  PERFORM 1 FROM membership m WHERE m.school_id = school AND m.role = 'coordinator' FOR UPDATE;
  IF p_role IS DISTINCT FROM 'coordinator' AND NOT EXISTS (
      SELECT FROM membership m WHERE m.school_id = school AND m.role = 'coordinator' AND m.account_id <> p_account) THEN
    RETURN false;
  END IF;
  IF p_role IS NULL THEN
    DELETE FROM membership m WHERE m.school_id = school AND m.account_id = p_account;
    DELETE FROM login_session s WHERE s.school_id = school AND s.account_id = p_account;
  ELSE
    UPDATE membership m SET role = p_role WHERE m.school_id = school AND m.account_id = p_account;
  END IF;
  RETURN FOUND OR p_role IS NULL;
END $$;

-- Erase an account: the name, the login and the password go, the rows it wrote stay. Refused (false) while it is the only
-- coordinator of a school.
CREATE FUNCTION auth_erase(p_account uuid) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
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
  UPDATE account SET name = 'somebody who has left', login = 'erased-' || replace(id::text, '-', ''), password_hash = '!', erased_at = now()
  WHERE id = p_account;
  RETURN FOUND;
END $$;

-- The session's own account: its login and password hash, to change them with.
CREATE FUNCTION auth_own_account(p_token_hash bytea) RETURNS TABLE (account_id uuid, login text, name text, password_hash text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, public AS $$
  SELECT a.id, a.login, a.name, a.password_hash FROM login_session s JOIN account a ON a.id = s.account_id
  WHERE s.token_hash = p_token_hash AND s.expires_at > now()
$$;

-- Change the session's own account; with a new password every other session ends.
CREATE FUNCTION auth_change_account(p_token_hash bytea, p_name text, p_password_hash text) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE own uuid;
BEGIN
  SELECT s.account_id INTO own FROM login_session s WHERE s.token_hash = p_token_hash AND s.expires_at > now();
  UPDATE account SET name = p_name, password_hash = coalesce(p_password_hash, password_hash) WHERE id = own;
  IF p_password_hash IS NOT NULL THEN
    DELETE FROM login_session s WHERE s.account_id = own AND s.token_hash <> p_token_hash;
  END IF;
END $$;

-- Erase a person of the transaction's school who belongs to no other: 'erased', 'elsewhere', or 'last' for its only coordinator.
CREATE FUNCTION auth_erase_here(p_account uuid) RETURNS text
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE here uuid := current_setting('almanaque.school')::uuid;
BEGIN
  IF NOT EXISTS (SELECT FROM membership m WHERE m.account_id = p_account AND m.school_id = here)
     OR EXISTS (SELECT FROM membership m WHERE m.account_id = p_account AND m.school_id <> here) THEN
    RETURN 'elsewhere';
  END IF;
  RETURN CASE WHEN auth_erase(p_account) THEN 'erased' ELSE 'last' END;
END $$;
