-- The regulator in full: any bank with its switch, the acceptance profile, the shelf, hand over, undo, stored cards.

ALTER TABLE job ADD COLUMN profile jsonb NOT NULL DEFAULT '{}', ADD COLUMN sizing jsonb NOT NULL DEFAULT '{}';
COMMENT ON COLUMN job.profile IS 'acceptance profile; keys left out have the usual limit';
COMMENT ON COLUMN job.sizing IS 'switch, class of capacitors and fixed parts for the search; keys left out as usual';

-- A design is one document: its parts depend on each other and are only ever read and kept together.
ALTER TABLE design
    ADD COLUMN regulator jsonb,
    ADD COLUMN kept jsonb,
    ADD COLUMN restores bigint REFERENCES design (id);
COMMENT ON COLUMN design.regulator IS 'NULL: no bank (the choice was undone)';
COMMENT ON COLUMN design.kept IS 'what the core of that version predicted, by name';
COMMENT ON COLUMN design.restores IS 'the design whose bank and readings this revision brings back';
ALTER TABLE design DISABLE TRIGGER design_append_only;
UPDATE design SET regulator = jsonb_build_object(
    'capacitors', jsonb_build_array(
        jsonb_build_object('nominal_f', a_f, 'tolerance', tolerance),
        jsonb_build_object('nominal_f', b_f, 'tolerance', tolerance)),
    'patterns', to_jsonb(patterns),
    'switch', jsonb_build_object('positions', greatest(cardinality(patterns), 2)));
ALTER TABLE design ENABLE TRIGGER design_append_only;
ALTER TABLE design DROP COLUMN a_f, DROP COLUMN b_f, DROP COLUMN patterns, DROP COLUMN tolerance;

CREATE TABLE shelf_part (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    version integer NOT NULL DEFAULT 1,
    class text NOT NULL,
    nominal double precision NOT NULL CONSTRAINT shelf_nominal CHECK (nominal > 0),
    measured double precision CONSTRAINT shelf_measured CHECK (measured > 0),
    tolerance double precision NOT NULL DEFAULT 0 CONSTRAINT shelf_tolerance CHECK (tolerance BETWEEN 0 AND 0.9),
    rating double precision NOT NULL CONSTRAINT shelf_rating CHECK (rating > 0),
    count integer NOT NULL DEFAULT 1 CONSTRAINT shelf_count CHECK (count BETWEEN 0 AND 100000),
    place text NOT NULL DEFAULT '' CONSTRAINT shelf_place_length CHECK (char_length(place) <= 120),
    note text NOT NULL DEFAULT '' CONSTRAINT shelf_note_length CHECK (char_length(note) <= 120),
    gone boolean NOT NULL DEFAULT false,
    saved_at timestamptz NOT NULL DEFAULT now()
);
COMMENT ON COLUMN shelf_part.nominal IS 'F, Ω or A by class; positions of a switch';
COMMENT ON COLUMN shelf_part.rating IS 'V of capacitors, fuses and switches, W of resistors';

CREATE TABLE reservation (
    part_id bigint NOT NULL REFERENCES shelf_part (id),
    job_id bigint NOT NULL REFERENCES job (id),
    reserved integer NOT NULL DEFAULT 0 CONSTRAINT reservation_reserved CHECK (reserved >= 0),
    used integer NOT NULL DEFAULT 0 CONSTRAINT reservation_used CHECK (used >= 0),
    PRIMARY KEY (part_id, job_id)
);
-- A job page lists what is put aside for it.
CREATE INDEX reservation_by_job ON reservation (job_id);

CREATE TABLE handover (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id bigint NOT NULL REFERENCES job (id),
    design_id bigint REFERENCES design (id),
    who text NOT NULL CONSTRAINT handover_signed CHECK (char_length(who) BETWEEN 1 AND 120),
    note text NOT NULL DEFAULT '' CONSTRAINT handover_note_length CHECK (char_length(note) <= 2000),
    recheck_on date,
    core_version text NOT NULL,
    record jsonb NOT NULL,
    at timestamptz NOT NULL DEFAULT now()
);
COMMENT ON COLUMN handover.record IS 'the whole report as it was signed';
CREATE INDEX handover_by_job ON handover (job_id, id DESC);
CREATE TRIGGER handover_append_only BEFORE UPDATE OR DELETE ON handover
    FOR EACH ROW EXECUTE FUNCTION refuse_change();

-- Edits of the shelf belong to no job.
ALTER TABLE event ALTER COLUMN job_id DROP NOT NULL;
CREATE INDEX event_of_shelf ON event (id DESC) WHERE job_id IS NULL;

-- What the Bench shows of a job, computed when the job changes, so that ten thousand jobs need no solving.
CREATE TABLE card (
    job_id bigint PRIMARY KEY REFERENCES job (id),
    core_version text NOT NULL,
    waits_kind text NOT NULL,
    search text NOT NULL,
    body jsonb NOT NULL
);
-- Filtering by what a job waits for, newest last.
CREATE INDEX card_by_kind ON card (waits_kind, job_id);
