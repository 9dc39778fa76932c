-- How often a drawing's check was begun: what ends its reader again and again is not read for ever.
ALTER TABLE drawings ADD COLUMN tries int NOT NULL DEFAULT 0;
