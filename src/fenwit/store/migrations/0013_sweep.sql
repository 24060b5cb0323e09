-- A run at a duty may be one of a sweep of frequencies.
ALTER TABLE run
    ADD COLUMN frequency_hz double precision CONSTRAINT run_frequency CHECK (frequency_hz BETWEEN 20 AND 1000000),
    ADD CONSTRAINT run_swept CHECK (frequency_hz IS NULL OR what = 'duty');
COMMENT ON COLUMN run.frequency_hz IS 'of the signal on the control lead, where the run is one of a sweep; null: as it came';
-- A place of the sweep is there once.
CREATE UNIQUE INDEX run_swept_once ON run (job_id, frequency_hz, value) WHERE frequency_hz IS NOT NULL AND NOT gone;
