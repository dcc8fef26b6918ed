-- Plantings put beside each other on purpose, against what, and what came of it.
CREATE TABLE neighbour_trial (
  school_id    uuid NOT NULL,
  id           uuid NOT NULL,
  planting_id  uuid NOT NULL,
  beside_id    uuid NOT NULL,
  against      text NOT NULL DEFAULT '' CONSTRAINT neighbour_trial_against_length CHECK (length(against) <= 60),
  begun_on     date NOT NULL,
  outcome      text CONSTRAINT neighbour_trial_outcome_known CHECK (outcome IN ('helped', 'did not', 'cannot say')),
  answered_on  date,
  noted_by     uuid REFERENCES account (id),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, beside_id) REFERENCES planting (school_id, id) ON DELETE CASCADE,
  CONSTRAINT neighbour_trial_once UNIQUE (school_id, planting_id, beside_id),
  CONSTRAINT neighbour_trial_two CHECK (planting_id <> beside_id),
  CONSTRAINT neighbour_trial_answered CHECK ((outcome IS NULL) = (answered_on IS NULL))
);
SELECT give_wall('neighbour_trial');
