-- Where a station with animals is while it cannot stay outside: over the winter, or a break.
CREATE TABLE station_home (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  station_id  uuid NOT NULL,
  place       text NOT NULL CONSTRAINT station_home_place_given CHECK (place ~ '\S' AND length(place) <= 120),
  from_day    date NOT NULL,
  to_day      date NOT NULL,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, station_id) REFERENCES station (school_id, id) ON DELETE CASCADE,
  CONSTRAINT station_home_in_order CHECK (to_day >= from_day)
);
SELECT give_wall('station_home');
