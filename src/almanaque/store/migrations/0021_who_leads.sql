-- Where the weather on file and the local office's chart differ, the school says which it follows.

ALTER TABLE school ADD COLUMN leads text NOT NULL DEFAULT 'record'
  CONSTRAINT school_leads_known CHECK (leads IN ('record', 'chart', 'all'));
