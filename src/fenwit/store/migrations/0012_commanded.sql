-- Fans with electronics of their own: what is known of them, runs at a duty, and the ways to command or to feed them.
ALTER TABLE job
    ADD COLUMN commanded jsonb NOT NULL DEFAULT '{}'
        CONSTRAINT job_commanded CHECK (jsonb_typeof(commanded) = 'object');
COMMENT ON COLUMN job.commanded IS 'map of speeds, leads, signal and supply of a fan with electronics, as far as they are known';
ALTER TABLE run
    DROP CONSTRAINT run_what,
    ADD CONSTRAINT run_what
        CHECK (what IN ('capacitor', 'resistor', 'voltage', 'duty', 'bare-shaft', 'locked', 'direct'));
COMMENT ON COLUMN run.value IS 'F, Ω or V of what stood in the line, or the duty on the control lead';
