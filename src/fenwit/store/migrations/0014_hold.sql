-- Fans told by a voltage, what a fan holds by itself, and devices that answer.
ALTER TABLE job
    ADD COLUMN hold jsonb NOT NULL DEFAULT '{}' CONSTRAINT job_hold CHECK (jsonb_typeof(hold) = 'object');
COMMENT ON COLUMN job.hold IS 'what the fan holds by itself, a flow, a pressure or a temperature, and how; empty: nothing';
ALTER TABLE run
    DROP CONSTRAINT run_what,
    ADD CONSTRAINT run_what
        CHECK (what IN ('capacitor', 'resistor', 'voltage', 'duty', 'control', 'bare-shaft', 'locked', 'direct'));
COMMENT ON COLUMN run.value IS 'F, Ω or V of what stood in the line, the duty on the control lead, or volts on the control input';
ALTER TABLE reading
    ADD COLUMN source text NOT NULL DEFAULT '' CONSTRAINT reading_source_length CHECK (char_length(source) <= 120);
COMMENT ON COLUMN reading.source IS 'the device it was read off, and where in it; empty: typed by hand';

-- What devices answered when they were asked, beside the readings: only what came in time and can be true becomes one.
CREATE TABLE answer (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id bigint NOT NULL REFERENCES job (id),
    device text NOT NULL CONSTRAINT answer_device_length CHECK (char_length(device) BETWEEN 1 AND 60),
    quantity text NOT NULL CONSTRAINT answer_quantity_length CHECK (char_length(quantity) BETWEEN 1 AND 80),
    outcome text NOT NULL CONSTRAINT answer_outcome CHECK (outcome IN ('value', 'late', 'lost', 'moving', 'absurd', 'refused')),
    value double precision CONSTRAINT answer_value CHECK ((outcome = 'value') = (value IS NOT NULL) OR outcome IN ('late', 'moving', 'absurd')),
    words text NOT NULL CONSTRAINT answer_words_length CHECK (char_length(words) <= 300),
    took_s double precision NOT NULL CONSTRAINT answer_took CHECK (took_s >= 0),
    who text NOT NULL DEFAULT '' CONSTRAINT answer_who_length CHECK (char_length(who) <= 80),
    at timestamptz NOT NULL DEFAULT clock_timestamp()
);
-- A job page shows the last answers of its job, newest first.
CREATE INDEX answer_by_job ON answer (job_id, id DESC);
CREATE TRIGGER answer_append_only BEFORE UPDATE OR DELETE ON answer FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER answer_not_emptied BEFORE TRUNCATE ON answer EXECUTE FUNCTION refuse_change();
DO $$
BEGIN
    IF EXISTS (SELECT FROM pg_roles WHERE rolname = 'fenwit_app') THEN
        GRANT SELECT, INSERT ON answer TO fenwit_app;
    END IF;
END $$;
