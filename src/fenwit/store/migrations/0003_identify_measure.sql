-- Identify and Measure in earnest: what was seen on a motor, its leads and capacitor block; runs away from full speed;
-- instruments; readings that name their instrument and can be set aside.

ALTER TABLE fan ADD COLUMN findings jsonb NOT NULL DEFAULT '{}';
COMMENT ON COLUMN fan.findings IS 'observations, leads, capacitor block; one document, keys left out as usual';

CREATE TABLE instrument (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    version integer NOT NULL DEFAULT 1,
    name text NOT NULL CONSTRAINT instrument_name_length CHECK (char_length(name) BETWEEN 1 AND 120),
    true_rms boolean NOT NULL DEFAULT true,
    ranges jsonb NOT NULL DEFAULT '[]',
    gone boolean NOT NULL DEFAULT false,
    saved_at timestamptz NOT NULL DEFAULT now()
);
COMMENT ON COLUMN instrument.ranges IS 'per function: highest value, per cent of reading, digits, resolution';

CREATE TABLE run (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id bigint NOT NULL REFERENCES job (id),
    what text NOT NULL
        CONSTRAINT run_what CHECK (what IN ('capacitor', 'resistor', 'voltage', 'bare-shaft', 'locked', 'direct')),
    value double precision CONSTRAINT run_value CHECK (value > 0),
    typed text NOT NULL DEFAULT '' CONSTRAINT run_typed_length CHECK (char_length(typed) <= 40),
    gone boolean NOT NULL DEFAULT false,
    who text NOT NULL DEFAULT '',
    at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT run_has_value CHECK ((value IS NULL) = (what IN ('bare-shaft', 'locked', 'direct')))
);
COMMENT ON COLUMN run.value IS 'F, Ω or V of what stood in the line';
-- A job page reads all runs of its job.
CREATE INDEX run_by_job ON run (job_id, id);

ALTER TABLE reading
    ADD COLUMN run_id bigint REFERENCES run (id),
    ADD COLUMN instrument_id bigint REFERENCES instrument (id),
    ADD COLUMN sigma double precision CONSTRAINT reading_sigma CHECK (sigma > 0 AND sigma <= 1),
    ADD COLUMN aside boolean NOT NULL DEFAULT false;
COMMENT ON COLUMN reading.sigma IS 'relative standard uncertainty by the instrument, as it was when the reading was taken';
COMMENT ON COLUMN reading.aside IS 'kept, but not believed';
ALTER TABLE reading ADD CONSTRAINT reading_run_or_step CHECK (run_id IS NULL OR step IS NULL);
DROP INDEX reading_first_once;
CREATE UNIQUE INDEX reading_first_once
    ON reading (job_id, quantity, coalesce(step, 0), coalesce(design_id, 0), coalesce(run_id, 0))
    WHERE supersedes IS NULL;
