-- Designs say by which method they regulate; rows of one job belong together; the books cannot be emptied, and the
-- application may only add to them. What older versions wrote stands as it is: constraints are for what comes.

ALTER TABLE design ADD COLUMN method text GENERATED ALWAYS AS (
    CASE
        WHEN regulator IS NULL THEN NULL
        WHEN regulator ? 'method' THEN regulator ->> 'method'
        WHEN regulator ? 'firing_deg' THEN 'phase-angle'
        WHEN regulator ?& ARRAY['capacitors', 'patterns'] THEN 'series-capacitor'
    END) STORED;
COMMENT ON COLUMN design.method IS 'as the document says, or told by its keys where it was written before it said so';
COMMENT ON COLUMN design.regulator IS 'the design as a document with its method and form; NULL: the choice was undone';
ALTER TABLE design
    ADD CONSTRAINT design_method CHECK (method IN ('series-capacitor', 'series-resistor', 'phase-angle',
        'stepped-voltage', 'winding-tap', 'dc-voltage', 'chopped-supply', 'pwm', 'control-voltage',
        'variable-frequency')) NOT VALID,
    ADD CONSTRAINT design_says_its_method CHECK ((regulator IS NULL) = (method IS NULL)) NOT VALID;

-- A room can be colder than melting ice.
ALTER TABLE reading DROP CONSTRAINT reading_value;
ALTER TABLE reading ADD CONSTRAINT reading_value CHECK (value >= 0 OR quantity LIKE '%temperature\_c') NOT VALID;

ALTER TABLE fan ADD CONSTRAINT fan_motor_kind CHECK (motor_kind IN ('shaded-pole', 'psc', 'psc-tapped', 'split-phase',
    'capacitor-start', 'capacitor-start-run', 'universal', 'three-phase', 'ec-control-input', 'ec-replacement', 'dc-2-wire',
    'dc-3-wire', 'dc-4-wire', 'dc-brushed')) NOT VALID;
ALTER TABLE shelf_part ADD CONSTRAINT shelf_class CHECK (class IN ('x2-film', 'motor-run', 'dc-film', 'electrolytic',
    'metal-film', 'wirewound', 'fuse', 'switch')) NOT VALID;

-- Rows that belong together belong to one job, and a job to one fan.
ALTER TABLE job ADD CONSTRAINT job_of_fan UNIQUE (id, fan_id);
ALTER TABLE design ADD CONSTRAINT design_of_job UNIQUE (id, job_id);
ALTER TABLE run ADD CONSTRAINT run_of_job UNIQUE (id, job_id);
ALTER TABLE reading ADD CONSTRAINT reading_of_job UNIQUE (id, job_id);
ALTER TABLE design ADD CONSTRAINT design_restores_own FOREIGN KEY (restores, job_id) REFERENCES design (id, job_id)
    NOT VALID;
ALTER TABLE reading
    ADD CONSTRAINT reading_own_fan FOREIGN KEY (job_id, fan_id) REFERENCES job (id, fan_id) NOT VALID,
    ADD CONSTRAINT reading_own_design FOREIGN KEY (design_id, job_id) REFERENCES design (id, job_id) NOT VALID,
    ADD CONSTRAINT reading_own_run FOREIGN KEY (run_id, job_id) REFERENCES run (id, job_id) NOT VALID,
    ADD CONSTRAINT reading_supersedes_own FOREIGN KEY (supersedes, job_id) REFERENCES reading (id, job_id) NOT VALID;
ALTER TABLE capture ADD CONSTRAINT capture_own_design FOREIGN KEY (design_id, job_id) REFERENCES design (id, job_id)
    NOT VALID;
ALTER TABLE handover ADD CONSTRAINT handover_own_design FOREIGN KEY (design_id, job_id) REFERENCES design (id, job_id)
    NOT VALID;

CREATE TRIGGER design_not_emptied BEFORE TRUNCATE ON design EXECUTE FUNCTION refuse_change();
CREATE TRIGGER reading_not_emptied BEFORE TRUNCATE ON reading EXECUTE FUNCTION refuse_change();
CREATE TRIGGER event_not_emptied BEFORE TRUNCATE ON event EXECUTE FUNCTION refuse_change();
CREATE TRIGGER handover_not_emptied BEFORE TRUNCATE ON handover EXECUTE FUNCTION refuse_change();
CREATE TRIGGER capture_not_emptied BEFORE TRUNCATE ON capture EXECUTE FUNCTION refuse_change();

-- The role the application works as. A server whose owner may not make roles goes on as before: the triggers stand.
DO $$
BEGIN
    IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'fenwit_app') THEN
        CREATE ROLE fenwit_app NOLOGIN;
    END IF;
EXCEPTION
    WHEN duplicate_object OR unique_violation THEN NULL;
    WHEN insufficient_privilege THEN RAISE NOTICE 'no role fenwit_app: this login may not make one';
END $$;
DO $$
BEGIN
    IF EXISTS (SELECT FROM pg_roles WHERE rolname = 'fenwit_app') THEN
        GRANT USAGE ON SCHEMA public TO fenwit_app;
        GRANT SELECT ON ALL TABLES IN SCHEMA public TO fenwit_app;
        GRANT INSERT ON design, reading, event, handover, capture TO fenwit_app;
        GRANT INSERT, UPDATE ON fan, job, run, instrument, shelf_part, reservation, card TO fenwit_app;
        GRANT DELETE ON card TO fenwit_app;
    END IF;
END $$;
