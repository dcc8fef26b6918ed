-- Marked places from which the same is photographed again, so that then and now can be laid beside each other.
CREATE TABLE viewpoint (
  school_id  uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  id         uuid NOT NULL,
  bed_id     uuid NOT NULL,
  name       text NOT NULL CONSTRAINT viewpoint_name_given CHECK (name ~ '\S' AND length(name) <= 60),
  made_at    timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, bed_id) REFERENCES bed (school_id, id) ON DELETE CASCADE,
  CONSTRAINT viewpoint_name_once UNIQUE (school_id, bed_id, name)
);
SELECT give_wall('viewpoint');

ALTER TABLE photo ADD COLUMN viewpoint_id uuid;
ALTER TABLE photo ADD CONSTRAINT photo_viewpoint FOREIGN KEY (school_id, viewpoint_id)
  REFERENCES viewpoint (school_id, id) ON DELETE SET NULL (viewpoint_id);

-- Photos of a station, for a series of its own.
CREATE TABLE station_photo (
  school_id   uuid NOT NULL,
  photo_id    uuid NOT NULL,
  station_id  uuid NOT NULL,
  PRIMARY KEY (school_id, photo_id),
  FOREIGN KEY (school_id, photo_id) REFERENCES photo (school_id, id) ON DELETE CASCADE,
  FOREIGN KEY (school_id, station_id) REFERENCES station (school_id, id) ON DELETE CASCADE
);
SELECT give_wall('station_photo');
