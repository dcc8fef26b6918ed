-- A season planned at once: what is asked, what is wished for, what somebody decided of single proposals, and what was proposed.

CREATE TABLE season_plan (
  school_id   uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  id          uuid NOT NULL,
  name        text NOT NULL CONSTRAINT season_plan_name_given CHECK (length(name) BETWEEN 1 AND 80),
  starts      date NOT NULL,
  ends        date NOT NULL,
  free_from   date,
  bed_ids     uuid[] NOT NULL DEFAULT '{}',
  parts       jsonb NOT NULL DEFAULT '{}',  -- of beds that may be used in part: their squares, by bed
  limits      jsonb NOT NULL DEFAULT '{}',
  aims        text[] NOT NULL,
  created_at  timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  CONSTRAINT season_plan_in_order CHECK (starts <= ends AND ends - starts <= 550)
);
SELECT give_wall('season_plan');

-- One line of the wish list. `kinds` and `fill` make several wishes of one, `a_week` makes grams a week of grams.
CREATE TABLE season_wish (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  plan_id     uuid NOT NULL,
  number      integer NOT NULL,
  label       text NOT NULL DEFAULT '' CONSTRAINT season_wish_label_length CHECK (length(label) <= 120),
  crops       text[] NOT NULL DEFAULT '{}',
  kind        text NOT NULL CONSTRAINT season_wish_kind_known
              CHECK (kind IN ('crop', 'quick', 'any food', 'flowers', 'green manure')),
  squares     integer CONSTRAINT season_wish_squares_sane CHECK (squares BETWEEN 1 AND 400),
  plants      integer CONSTRAINT season_wish_plants_sane CHECK (plants BETWEEN 1 AND 5000),
  grams       integer CONSTRAINT season_wish_grams_sane CHECK (grams BETWEEN 1 AND 2000000),
  a_week      boolean NOT NULL DEFAULT false,
  kinds       integer CONSTRAINT season_wish_kinds_sane CHECK (kinds BETWEEN 1 AND 60),
  fill        boolean NOT NULL DEFAULT false,
  group_id    uuid,
  bed_id      uuid,
  ready_by    date,
  ready_to    date,
  weight      text NOT NULL CONSTRAINT season_wish_weight_known CHECK (weight IN ('must', 'would like', 'if room')),
  votes       integer NOT NULL DEFAULT 0 CONSTRAINT season_wish_votes_sane CHECK (votes BETWEEN 0 AND 100000),
  origin      text NOT NULL CONSTRAINT season_wish_origin_known
              CHECK (origin IN ('typed', 'ballot', 'last year', 'theme', 'seed box', 'filling')),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, plan_id) REFERENCES season_plan (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, group_id) REFERENCES class_group (school_id, id) ON DELETE SET NULL (group_id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id) ON DELETE SET NULL (bed_id)
);
CREATE INDEX season_wish_of_plan ON season_wish (school_id, plan_id, number);
SELECT give_wall('season_wish');

-- What somebody decided of a proposal: keep it so, not so, in that bed, not in that bed, not at all. `wish` is the key of a single wish.
CREATE TABLE season_decision (
  school_id   uuid NOT NULL,
  plan_id     uuid NOT NULL,
  wish        text NOT NULL CONSTRAINT season_decision_wish_length CHECK (length(wish) BETWEEN 1 AND 200),
  what        text NOT NULL CONSTRAINT season_decision_known CHECK (what IN ('kept', 'not so', 'there', 'not there', 'rubbed out')),
  way         text NOT NULL DEFAULT '',
  told        jsonb NOT NULL DEFAULT '{}',
  PRIMARY KEY (school_id, plan_id, wish, what, way),
  FOREIGN KEY (school_id, plan_id) REFERENCES season_plan (school_id, id) ON DELETE CASCADE
);
SELECT give_wall('season_decision');

-- One of the plans that are made of it, differing in what they put first. `found` is the best proposal so far.
CREATE TABLE season_proposal (
  school_id   uuid NOT NULL,
  plan_id     uuid NOT NULL,
  which       text NOT NULL CONSTRAINT season_proposal_which_known CHECK (which IN ('surest', 'most kinds', 'least summer')),
  state       text NOT NULL CONSTRAINT season_proposal_state_known CHECK (state IN ('waits', 'works', 'done', 'failed')),
  stop        boolean NOT NULL DEFAULT false,
  asked       uuid NOT NULL,
  asked_at    timestamptz NOT NULL DEFAULT now(),
  gap         double precision,
  proved      boolean NOT NULL DEFAULT false,
  found       jsonb,
  PRIMARY KEY (school_id, plan_id, which),
  FOREIGN KEY (school_id, plan_id) REFERENCES season_plan (school_id, id) ON DELETE CASCADE
);
SELECT give_wall('season_proposal');

-- Which plantings came of a wish when a proposal was pencilled, so that what stands in the ground is not planned again.
CREATE TABLE season_planting (
  school_id   uuid NOT NULL,
  plan_id     uuid NOT NULL,
  wish        text NOT NULL CONSTRAINT season_planting_wish_length CHECK (length(wish) BETWEEN 1 AND 200),
  planting_id uuid NOT NULL,
  PRIMARY KEY (school_id, plan_id, wish, planting_id),
  FOREIGN KEY (school_id, plan_id) REFERENCES season_plan (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, planting_id) REFERENCES planting (school_id, id) ON DELETE CASCADE
);
SELECT give_wall('season_planting');
