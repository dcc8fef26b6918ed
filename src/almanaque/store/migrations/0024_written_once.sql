-- What a page of ours sent once: the number that its form was drawn with, together with what was in it. Sent again it is not written
-- again, and whoever sent it is led to where the first one led.
CREATE TABLE written_once (
  school_id  uuid NOT NULL REFERENCES school (id),
  id         uuid NOT NULL,
  led_to     text NOT NULL DEFAULT '' CONSTRAINT written_once_led_to_length CHECK (length(led_to) <= 2000),
  written_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id)
);
CREATE INDEX written_once_by_age ON written_once (school_id, written_at);
SELECT give_wall('written_once');
