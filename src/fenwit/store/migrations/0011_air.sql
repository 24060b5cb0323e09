-- Air of a job, and in what its wanted speeds were meant.
ALTER TABLE job
    ADD COLUMN air jsonb NOT NULL DEFAULT '{}' CONSTRAINT job_air CHECK (jsonb_typeof(air) = 'object'),
    ADD COLUMN meant text[] NOT NULL DEFAULT '{}' CONSTRAINT job_meant CHECK (cardinality(meant) <= 8);
COMMENT ON COLUMN job.air IS 'altitude, fan curve, system, heat, noise and resonances as far as they are known';
COMMENT ON COLUMN job.meant IS 'beside wanted_rpm: each target as it was meant, like 1400 m³/h; empty: the speed itself';
