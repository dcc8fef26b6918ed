-- What a kitchen or a stall asked for, by its link or at school, and how far it went into a plan; a link whose page is the weekly sheet.
CREATE TABLE kitchen_request (
  school_id       uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  id              uuid NOT NULL,
  crop            text,
  what            text NOT NULL CONSTRAINT kitchen_request_what_given CHECK (what ~ '\S' AND length(what) <= 80),
  grams           numeric(10, 2) CONSTRAINT kitchen_request_grams_sane CHECK (grams > 0 AND grams <= 1000000),
  amount          text NOT NULL DEFAULT '' CONSTRAINT kitchen_request_amount_length CHECK (length(amount) <= 40),
  from_day        date NOT NULL,
  to_day          date NOT NULL,
  open_garden_id  uuid,
  asked_on        date NOT NULL,
  closed_on       date,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, open_garden_id) REFERENCES open_garden (school_id, id) ON DELETE SET NULL (open_garden_id),
  CONSTRAINT kitchen_request_in_order CHECK (to_day >= from_day)
);
SELECT give_wall('kitchen_request');

ALTER TABLE open_garden DROP CONSTRAINT open_garden_audience_known;
ALTER TABLE open_garden ADD CONSTRAINT open_garden_audience_known
  CHECK (audience IN ('class', 'families', 'everybody', 'partners', 'kitchen'));

ALTER TABLE season_wish DROP CONSTRAINT season_wish_origin_known;
ALTER TABLE season_wish ADD CONSTRAINT season_wish_origin_known
  CHECK (origin IN ('typed', 'ballot', 'last year', 'theme', 'seed box', 'filling', 'kitchen'));
