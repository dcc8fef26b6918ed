-- What a school's curriculum asks for, by its own list of codes, and which lessons cover what.
CREATE TABLE standard (
  school_id  uuid NOT NULL REFERENCES school (id) ON DELETE CASCADE,
  code       text NOT NULL CONSTRAINT standard_code_given CHECK (code ~ '\S' AND length(code) <= 40),
  words      text NOT NULL DEFAULT '' CONSTRAINT standard_words_length CHECK (length(words) <= 600),
  subject    text NOT NULL DEFAULT '' CONSTRAINT standard_subject_length CHECK (length(subject) <= 80),
  grades     text NOT NULL DEFAULT '' CONSTRAINT standard_grades_length CHECK (length(grades) <= 40),
  ordinal    integer NOT NULL DEFAULT 0,
  PRIMARY KEY (school_id, code)
);
SELECT give_wall('standard');

CREATE TABLE lesson_standard (
  school_id  uuid NOT NULL,
  lesson     text NOT NULL CONSTRAINT lesson_standard_lesson_length CHECK (length(lesson) BETWEEN 1 AND 60),
  code       text NOT NULL,
  PRIMARY KEY (school_id, lesson, code),
  FOREIGN KEY (school_id, code) REFERENCES standard (school_id, code) ON DELETE CASCADE
);
SELECT give_wall('lesson_standard');
