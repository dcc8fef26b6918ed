-- What the application's role may do and no more. Run after every migration; safe to repeat. {role} is filled in.

GRANT USAGE ON SCHEMA public, queue TO {role};
GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public, queue TO {role};
GRANT USAGE ON ALL SEQUENCES IN SCHEMA queue TO {role};
REVOKE EXECUTE ON ALL FUNCTIONS IN SCHEMA public FROM PUBLIC;
GRANT EXECUTE ON ALL FUNCTIONS IN SCHEMA public, queue TO {role};
REVOKE EXECUTE ON FUNCTION give_wall(text[]) FROM {role};

-- Accounts and sessions are reached through functions only.
REVOKE ALL ON account, login_session, login_attempt, invitation, recovery_code, reset_link, entered_once FROM {role};

-- The log is written, never changed.
REVOKE UPDATE, DELETE ON audit_entry FROM {role};

-- Of a school it changes these columns; it makes and deletes none.
REVOKE INSERT, UPDATE, DELETE ON school, membership, schema_migration FROM {role};
REVOKE DELETE ON upkeep FROM {role};
GRANT UPDATE (
  name, setting, theme, units, currency, moon, mail_to,
  place_name, latitude, longitude, zone, weather_source, weather_digest,
  grade_word, first_grade, last_grade,
  rest_years, neighbours, feeding, hand_span_mm, invasive_here, ready_by, leads, learns, shares_lessons,
  water_by, hose_l_min, bottle_l, rounds_a_week
) ON school TO {role};

-- Nobody but the owner makes tables here, temporary ones neither.
DO $$ BEGIN
  EXECUTE format('REVOKE CREATE, TEMPORARY ON DATABASE %I FROM PUBLIC', current_database());
END $$;
REVOKE CREATE ON SCHEMA public, queue FROM PUBLIC, {role};
