-- A file that was taken in stays known until its day is over, with the page it led to: a second tap on its button shows that page.
ALTER TABLE upload ADD COLUMN led_to text NOT NULL DEFAULT '';
