-- The control that came in with a fan, as it was read off its board; one document.
ALTER TABLE job
    ADD COLUMN board jsonb NOT NULL DEFAULT '{}' CONSTRAINT job_board CHECK (jsonb_typeof(board) = 'object');
COMMENT ON COLUMN job.board IS 'topology, parts as far as they can be read, how it is built, what was seen; empty: none came in';
