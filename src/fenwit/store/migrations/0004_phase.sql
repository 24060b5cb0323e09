-- Phase angle as a regulator: designs that have a name of their own, and what a scope saw of a step.

ALTER TABLE design ADD COLUMN name text NOT NULL DEFAULT ''
    CONSTRAINT design_name_length CHECK (char_length(name) <= 120);
COMMENT ON COLUMN design.regulator IS 'a bank (capacitors, patterns) or a phase-angle control (firing_deg); NULL: the choice was undone';

CREATE TABLE capture (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id bigint NOT NULL REFERENCES job (id),
    design_id bigint NOT NULL REFERENCES design (id),
    step smallint NOT NULL CONSTRAINT capture_step CHECK (step BETWEEN 1 AND 8),
    name text NOT NULL DEFAULT '' CONSTRAINT capture_name_length CHECK (char_length(name) <= 120),
    shown jsonb NOT NULL,
    who text NOT NULL DEFAULT '',
    at timestamptz NOT NULL DEFAULT now()
);
COMMENT ON COLUMN capture.shown IS 'one period of what was captured, and what was read from it';
-- A step shows its newest captures.
CREATE INDEX capture_by_step ON capture (job_id, design_id, step, id);
CREATE TRIGGER capture_append_only BEFORE UPDATE OR DELETE ON capture
    FOR EACH ROW EXECUTE FUNCTION refuse_change();
