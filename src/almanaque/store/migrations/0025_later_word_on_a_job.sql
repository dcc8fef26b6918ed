-- When somebody last said what became of a job, by the clock of whoever said it: of two phones the later word holds, whichever came first.
ALTER TABLE task ADD COLUMN told_at timestamptz;
