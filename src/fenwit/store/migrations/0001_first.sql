-- Fans last; jobs come and go; designs, readings and events are only ever added.

CREATE TABLE fan (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    version integer NOT NULL DEFAULT 1,
    name text NOT NULL CONSTRAINT fan_name_length CHECK (char_length(name) BETWEEN 1 AND 120),
    place text NOT NULL DEFAULT '' CONSTRAINT fan_place_length CHECK (char_length(place) <= 120),
    maker text NOT NULL DEFAULT '' CONSTRAINT fan_maker_length CHECK (char_length(maker) <= 120),
    serial text NOT NULL DEFAULT '' CONSTRAINT fan_serial_length CHECK (char_length(serial) <= 120),
    motor_kind text,
    poles integer CONSTRAINT fan_poles_even CHECK (poles BETWEEN 2 AND 48 AND poles % 2 = 0),
    rated_voltage_v double precision CONSTRAINT fan_rated_voltage CHECK (rated_voltage_v > 0),
    rated_frequency_hz double precision CONSTRAINT fan_rated_frequency CHECK (rated_frequency_hz > 0),
    rated_speed_rpm double precision CONSTRAINT fan_rated_speed CHECK (rated_speed_rpm > 0),
    rated_current_a double precision CONSTRAINT fan_rated_current CHECK (rated_current_a > 0),
    rated_power_w double precision CONSTRAINT fan_rated_power CHECK (rated_power_w > 0),
    run_capacitance_f double precision CONSTRAINT fan_run_capacitance CHECK (run_capacitance_f > 0)
);

CREATE TABLE job (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    version integer NOT NULL DEFAULT 1,
    fan_id bigint NOT NULL REFERENCES fan (id),
    wish text NOT NULL DEFAULT '' CONSTRAINT job_wish_length CHECK (char_length(wish) <= 2000),
    supply_voltage_v double precision NOT NULL DEFAULT 230 CONSTRAINT job_supply_voltage CHECK (supply_voltage_v > 0),
    supply_frequency_hz double precision NOT NULL DEFAULT 50
        CONSTRAINT job_supply_frequency CHECK (supply_frequency_hz > 0),
    wanted_rpm double precision[] NOT NULL DEFAULT '{}' CONSTRAINT job_wanted_count CHECK (cardinality(wanted_rpm) <= 8),
    created_at timestamptz NOT NULL DEFAULT now(),
    saved_at timestamptz NOT NULL DEFAULT now()
);
-- The logbook of a fan gathers its jobs.
CREATE INDEX job_by_fan ON job (fan_id);

CREATE TABLE design (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id bigint NOT NULL REFERENCES job (id),
    revision integer NOT NULL,
    a_f double precision NOT NULL CONSTRAINT design_a CHECK (a_f > 0),
    b_f double precision NOT NULL CONSTRAINT design_b CHECK (b_f > 0),
    patterns text[] NOT NULL CONSTRAINT design_patterns CHECK (cardinality(patterns) BETWEEN 1 AND 8),
    tolerance double precision NOT NULL CONSTRAINT design_tolerance CHECK (tolerance BETWEEN 0 AND 0.9),
    core_version text NOT NULL,
    who text NOT NULL DEFAULT '',
    made_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT design_revision_once UNIQUE (job_id, revision)
);

CREATE TABLE reading (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    fan_id bigint NOT NULL REFERENCES fan (id),
    job_id bigint NOT NULL REFERENCES job (id),
    design_id bigint REFERENCES design (id),
    step integer CONSTRAINT reading_step CHECK (step BETWEEN 1 AND 8),
    quantity text NOT NULL,
    value double precision CONSTRAINT reading_value CHECK (value >= 0),
    typed text NOT NULL CONSTRAINT reading_typed_length CHECK (char_length(typed) <= 40),
    expected_low double precision,
    expected_high double precision,
    who text NOT NULL DEFAULT '',
    taken_at timestamptz NOT NULL DEFAULT now(),
    supersedes bigint REFERENCES reading (id),
    CONSTRAINT reading_superseded_once UNIQUE (supersedes),
    CONSTRAINT reading_step_has_design CHECK ((step IS NULL) = (design_id IS NULL))
);
COMMENT ON COLUMN reading.value IS 'SI value; NULL takes back the reading it supersedes';
-- A job page reads all readings of its job; a logbook all of its fan, by time.
CREATE INDEX reading_by_job ON reading (job_id);
CREATE INDEX reading_by_fan ON reading (fan_id, taken_at);
-- Of two first readings of one thing only one may stand; the other has to supersede it knowingly.
CREATE UNIQUE INDEX reading_first_once ON reading (job_id, quantity, coalesce(step, 0), coalesce(design_id, 0))
    WHERE supersedes IS NULL;

CREATE TABLE event (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id bigint NOT NULL REFERENCES job (id),
    kind text NOT NULL,
    detail jsonb NOT NULL DEFAULT '{}',
    who text NOT NULL DEFAULT '',
    at timestamptz NOT NULL DEFAULT now()
);
-- A job page shows the events of its job, newest first.
CREATE INDEX event_by_job ON event (job_id, id DESC);

CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% is only ever added to', TG_TABLE_NAME;
END $$;
CREATE TRIGGER design_append_only BEFORE UPDATE OR DELETE ON design FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER reading_append_only BEFORE UPDATE OR DELETE ON reading FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER event_append_only BEFORE UPDATE OR DELETE ON event FOR EACH ROW EXECUTE FUNCTION refuse_change();
