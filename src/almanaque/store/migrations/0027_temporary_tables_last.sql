-- Functions that run with the owner's rights look among temporary tables last of all, not first: else whoever may make one could put
-- it in the place of the table that is meant, with a trigger of their own on it.
DO $$
DECLARE found regprocedure;
BEGIN
  FOR found IN SELECT p.oid FROM pg_proc p WHERE p.prosecdef AND p.pronamespace = 'public'::regnamespace LOOP
    EXECUTE format('ALTER FUNCTION %s SET search_path = pg_catalog, public, pg_temp', found);
  END LOOP;
END $$;
