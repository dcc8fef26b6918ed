-- Rounds of weeks partly closed are numbered from 11, daily ones to seedbeds from 21; a round can be offered to others.
ALTER TABLE carer_round DROP CONSTRAINT carer_round_ordinal_sane;
ALTER TABLE carer_round ADD CONSTRAINT carer_round_ordinal_sane CHECK (ordinal BETWEEN 1 AND 27);
ALTER TABLE carer_round ADD COLUMN offered boolean NOT NULL DEFAULT false;
