-- How it is wired: one circuit by terminals and nets, from which tables, tests and lists are read.
-- As text: the order of its parts and nets is the order of the work, and jsonb keeps none.
ALTER TABLE job
    ADD COLUMN wiring text NOT NULL DEFAULT '' CONSTRAINT job_wiring CHECK (char_length(wiring) <= 400000);
COMMENT ON COLUMN job.wiring IS 'the circuit as a fenwit-circuit/1 document; empty: none';
