-- Findings are kept as codes and parameters, so that they outlive a better sentence. What was kept as text keeps its text
-- until the planting is judged anew.

UPDATE forecast SET findings = (
  SELECT coalesce(jsonb_agg(
    (f - ARRAY['message', 'reason', 'fixes']) || jsonb_build_object(
      'case', 'as_written',
      'params', jsonb_build_object('message', f ->> 'message', 'reason', f ->> 'reason'),
      'fixes', (
        SELECT coalesce(jsonb_agg(
          (x - 'label') || jsonb_build_object('code', 'as_written', 'params', jsonb_build_object('label', x ->> 'label'))
          ORDER BY n), '[]')
        FROM jsonb_array_elements(f -> 'fixes') WITH ORDINALITY AS fixes (x, n)))
    ORDER BY at), '[]')
  FROM jsonb_array_elements(findings) WITH ORDINALITY AS kept (f, at)
) WHERE findings <> '[]';
