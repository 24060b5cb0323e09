-- How warm a winding was when its ohms were read. Nothing said: cold, as the room.
ALTER TABLE reading
    ADD COLUMN winding text CONSTRAINT reading_winding CHECK (winding IN ('cold', 'warm', 'at')),
    ADD COLUMN winding_c double precision
        CONSTRAINT reading_winding_c CHECK (winding_c >= -40 AND winding_c <= 200),
    ADD CONSTRAINT reading_winding_at CHECK ((winding IS NOT DISTINCT FROM 'at') = (winding_c IS NOT NULL));
COMMENT ON COLUMN reading.winding IS 'of ohms: cold, warm straight after running, or at winding_c; null: unsaid, taken as cold';
