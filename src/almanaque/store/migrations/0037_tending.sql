-- What people said of a planting's tending: that a practice is called for from a day on, or wanted no more from a day on.
CREATE TABLE tending_word (
  school_id    uuid NOT NULL,
  planting_id  uuid NOT NULL,
  step         text NOT NULL CONSTRAINT tending_step_given CHECK (step ~ '\S' AND length(step) <= 40),
  word         text NOT NULL CONSTRAINT tending_word_known CHECK (word IN ('called', 'ended')),
  on_day       date NOT NULL,
  PRIMARY KEY (school_id, planting_id, step, word),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE
);
SELECT give_wall('tending_word');

-- What lapses when it is not done gives way to what must be done, and is not held against anyone.
ALTER TABLE task ADD COLUMN lapses boolean NOT NULL DEFAULT false;
