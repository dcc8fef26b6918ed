-- What first pickings taught of a bed: by what share of its usual time a plant ripens there, and from how many plantings that is known.
CREATE TABLE bed_pace (
  school_id   uuid NOT NULL,
  bed_id      uuid NOT NULL,
  pace        numeric(3, 2) NOT NULL CONSTRAINT bed_pace_sane CHECK (pace BETWEEN 0.5 AND 1.5 AND pace <> 1),
  plantings   integer NOT NULL CONSTRAINT bed_pace_plantings_some CHECK (plantings > 0),
  learned_on  date NOT NULL,
  PRIMARY KEY (school_id, bed_id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id) ON DELETE CASCADE
);
SELECT give_wall('bed_pace');
