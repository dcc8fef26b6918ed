-- The local chart is looked at before it is kept, as calendars, weather and earlier years are.

ALTER TABLE upload DROP CONSTRAINT upload_purpose_known;
ALTER TABLE upload ADD CONSTRAINT upload_purpose_known
  CHECK (purpose IN ('calendar', 'weather', 'pickings', 'plantings', 'chart'));
