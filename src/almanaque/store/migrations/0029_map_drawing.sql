-- Drawing the garden: what was done to the map, for undo and redo over a sitting, and pictures that lie under it.

-- One thing as it was before a step and after it; null where it was not there. Steps are an account's own, in their order.
CREATE TABLE ground_change (
  school_id   uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  number      bigint GENERATED ALWAYS AS IDENTITY,
  step        uuid NOT NULL,
  account_id  uuid,
  at          timestamptz NOT NULL DEFAULT now(),
  what        text NOT NULL CONSTRAINT ground_change_what_known CHECK (what IN ('bed', 'feature')),
  thing_id    uuid NOT NULL,
  name        text NOT NULL,
  before      jsonb,
  after       jsonb,
  undone      boolean NOT NULL DEFAULT false,
  PRIMARY KEY (school_id, number),
  CONSTRAINT ground_change_of_something CHECK (before IS NOT NULL OR after IS NOT NULL)
);
CREATE INDEX ground_change_by_account ON ground_change (school_id, account_id, number DESC);
SELECT give_wall('ground_change');

-- A photo from above, a scan of a pencil map: laid under the map by two points a known length apart, dimmed, and private. `turn_deg` is
-- clockwise about its top-left corner, which lies at (x_mm, y_mm) of the site.
CREATE TABLE ground_picture (
  school_id   uuid NOT NULL,
  id          uuid NOT NULL,
  site_id     uuid NOT NULL,
  name        text NOT NULL CONSTRAINT ground_picture_name_given CHECK (length(name) BETWEEN 1 AND 80),
  taken_on    date NOT NULL,
  body        bytea NOT NULL CONSTRAINT ground_picture_not_too_large CHECK (length(body) <= 4000000),
  width_px    integer NOT NULL,
  height_px   integer NOT NULL,
  x_mm        double precision NOT NULL,
  y_mm        double precision NOT NULL,
  mm_per_px   double precision NOT NULL,
  turn_deg    double precision NOT NULL DEFAULT 0,
  dim         integer NOT NULL DEFAULT 50 CONSTRAINT ground_picture_dim_sane CHECK (dim BETWEEN 0 AND 90),
  shown       boolean NOT NULL DEFAULT true,
  PRIMARY KEY (school_id, id),
  FOREIGN KEY (school_id, site_id) REFERENCES site (school_id, id) ON DELETE CASCADE,
  CONSTRAINT ground_picture_size_sane CHECK (width_px BETWEEN 1 AND 10000 AND height_px BETWEEN 1 AND 10000),
  CONSTRAINT ground_picture_scale_sane CHECK (mm_per_px BETWEEN 0.01 AND 10000)
);
SELECT give_wall('ground_picture');

-- What is kept in a bed may be a plant, which shades, drinks and takes root room: a crop of the catalogue or just its measures.
ALTER TABLE kept_part
  ADD COLUMN crop       text CONSTRAINT kept_part_crop_length CHECK (length(crop) BETWEEN 1 AND 60),
  ADD COLUMN height_mm  double precision CONSTRAINT kept_part_height_sane CHECK (height_mm > 0 AND height_mm <= 150000),
  ADD COLUMN spread_mm  double precision CONSTRAINT kept_part_spread_sane CHECK (spread_mm > 0 AND spread_mm <= 100000);
