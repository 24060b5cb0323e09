-- What was worked out on the Desk, to go back to; the newest of each card are kept.
CREATE TABLE desk_answer (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    card text NOT NULL CONSTRAINT desk_card CHECK (card ~ '^[a-z0-9-]{1,40}$'),
    given jsonb NOT NULL CONSTRAINT desk_given CHECK (jsonb_typeof(given) = 'object'),
    said text NOT NULL CONSTRAINT desk_said CHECK (length(said) <= 400),
    who text NOT NULL DEFAULT '' CONSTRAINT desk_who CHECK (length(who) <= 80),
    at timestamptz NOT NULL DEFAULT now()
);
COMMENT ON TABLE desk_answer IS 'calls of the Desk: the fields as typed, and the answer in a line';
-- The newest first, of one card or of all.
CREATE INDEX desk_answer_card ON desk_answer (card, id DESC);
DO $$
BEGIN
    IF EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'fenwit_app') THEN
        GRANT SELECT, INSERT, DELETE ON desk_answer TO fenwit_app;
    END IF;
END
$$;
