-- Rows that belong together say so, and what older versions let through is put right and told in the book; a signature
-- that came with a file is told from one that was given here; a card knows of which state of its job it is.

ALTER TABLE handover ADD COLUMN imported boolean NOT NULL DEFAULT false;
COMMENT ON COLUMN handover.imported IS 'it came with a file: nobody signed in this database';
ALTER TABLE handover DISABLE TRIGGER handover_append_only;
-- A record names the job it was signed in. A signature given here is also never of one transaction with its design,
-- unless the whole database was put back in one.
UPDATE handover h SET imported = true
WHERE h.design_id IS NULL
    OR h.record ->> 'job_id' IS DISTINCT FROM h.job_id::text
    OR (h.xmin = (SELECT d.xmin FROM design d WHERE d.id = h.design_id)
        AND NOT EXISTS (SELECT FROM design d WHERE d.xmin = h.xmin AND d.job_id <> h.job_id));
ALTER TABLE handover ENABLE TRIGGER handover_append_only;

ALTER TABLE card ADD COLUMN saved_at timestamptz NOT NULL DEFAULT '-infinity';
COMMENT ON COLUMN card.saved_at IS 'when the job it was made of had been saved last';
UPDATE card SET saved_at = job.saved_at FROM job WHERE job.id = card.job_id;

ALTER TABLE reading ADD COLUMN thing text NOT NULL GENERATED ALWAYS AS (
    quantity || '|' || coalesce(step::text, '') || '|' || coalesce(run_id::text, '') || '|'
        || coalesce(design_id::text, '')) STORED;
COMMENT ON COLUMN reading.thing IS 'what was read and where; a correction is of the same thing';

-- Laid down again below, when every reading corrects one of its own kind.
ALTER TABLE reading DROP CONSTRAINT reading_supersedes_own, DROP CONSTRAINT reading_supersedes_fkey,
    DROP CONSTRAINT reading_superseded_once;
DROP INDEX reading_first_once;

ALTER TABLE reading DISABLE TRIGGER reading_append_only;
ALTER TABLE design DISABLE TRIGGER design_append_only;
ALTER TABLE capture DISABLE TRIGGER capture_append_only;
ALTER TABLE handover DISABLE TRIGGER handover_append_only;

-- A job gets a copy of its own of a design it named in another job, as a revision before all others.
CREATE FUNCTION pg_temp.own_design(job bigint, foreign_id bigint) RETURNS bigint LANGUAGE plpgsql AS $$
DECLARE
    found bigint;
BEGIN
    SELECT (detail ->> 'copy')::bigint INTO found FROM event
        WHERE job_id = job AND kind = 'put-right' AND detail ->> 'design' = foreign_id::text;
    IF found IS NOT NULL THEN
        RETURN found;
    END IF;
    INSERT INTO design (job_id, revision, regulator, kept, core_version, who, made_at, name)
        SELECT job, least(coalesce((SELECT min(revision) FROM design WHERE job_id = job), 1), 1) - 1,
            regulator, kept, core_version, who, made_at, name
        FROM design WHERE id = foreign_id
        RETURNING id INTO found;
    INSERT INTO event (job_id, kind, detail)
        VALUES (job, 'put-right', jsonb_build_object('design', foreign_id::text, 'copy', found));
    RETURN found;
END $$;

DO $$
DECLARE
    r record;
    own bigint;
BEGIN
    FOR r IN SELECT d.id, d.job_id, d.restores FROM design d JOIN design o ON o.id = d.restores
        WHERE o.job_id <> d.job_id ORDER BY d.id LOOP
        UPDATE design SET restores = pg_temp.own_design(r.job_id, r.restores) WHERE id = r.id;
    END LOOP;
    FOR r IN SELECT c.id, c.job_id, c.design_id FROM capture c JOIN design o ON o.id = c.design_id
        WHERE o.job_id <> c.job_id ORDER BY c.id LOOP
        UPDATE capture SET design_id = pg_temp.own_design(r.job_id, r.design_id) WHERE id = r.id;
    END LOOP;
    FOR r IN SELECT h.id, h.job_id, h.design_id FROM handover h JOIN design o ON o.id = h.design_id
        WHERE o.job_id <> h.job_id ORDER BY h.id LOOP
        UPDATE handover SET design_id = pg_temp.own_design(r.job_id, r.design_id) WHERE id = r.id;
    END LOOP;
    FOR r IN SELECT x.id, x.job_id, x.fan_id, x.design_id, x.run_id, j.fan_id AS own_fan, d.job_id AS design_job,
            u.job_id AS run_job
        FROM reading x JOIN job j ON j.id = x.job_id LEFT JOIN design d ON d.id = x.design_id
            LEFT JOIN run u ON u.id = x.run_id
        WHERE x.fan_id <> j.fan_id OR d.job_id <> x.job_id OR u.job_id <> x.job_id ORDER BY x.id LOOP
        own := r.run_id;
        IF r.run_job <> r.job_id THEN
            SELECT (detail ->> 'copy')::bigint INTO own FROM event
                WHERE job_id = r.job_id AND kind = 'put-right' AND detail ->> 'run' = r.run_id::text;
            IF own IS NULL THEN
                INSERT INTO run (job_id, what, value, typed, gone, who, at)
                    SELECT r.job_id, what, value, typed, gone, who, at FROM run WHERE id = r.run_id RETURNING id INTO own;
                INSERT INTO event (job_id, kind, detail)
                    VALUES (r.job_id, 'put-right', jsonb_build_object('run', r.run_id::text, 'copy', own));
            END IF;
        END IF;
        UPDATE reading SET fan_id = r.own_fan, run_id = own,
            design_id = CASE WHEN r.design_job <> r.job_id THEN pg_temp.own_design(r.job_id, r.design_id)
                ELSE design_id END
            WHERE id = r.id;
    END LOOP;
END $$;

-- Where a correction is of another thing, or a thing has two beginnings or none, its readings follow each other by age.
WITH astray AS (
    SELECT r.job_id, r.thing, o.job_id AS other_job, o.thing AS other_thing
    FROM reading r JOIN reading o ON o.id = r.supersedes
    WHERE o.job_id <> r.job_id OR o.thing <> r.thing OR o.id >= r.id
), damaged AS (
    SELECT job_id, thing FROM astray
    UNION SELECT other_job, other_thing FROM astray
    UNION SELECT job_id, thing FROM reading GROUP BY job_id, thing
        HAVING count(*) FILTER (WHERE supersedes IS NULL) <> 1
), chain AS (
    SELECT id, supersedes AS was, lag(id) OVER (PARTITION BY job_id, thing ORDER BY id) AS now
    FROM reading JOIN damaged USING (job_id, thing)
), changed AS (
    UPDATE reading SET supersedes = chain.now FROM chain
    WHERE reading.id = chain.id AND chain.now IS DISTINCT FROM chain.was
    RETURNING reading.job_id, reading.id, chain.was, chain.now
)
INSERT INTO event (job_id, kind, detail)
SELECT job_id, 'put-right', jsonb_build_object('reading', id, 'corrected', was, 'corrects', now) FROM changed;

ALTER TABLE reading ENABLE TRIGGER reading_append_only;
ALTER TABLE design ENABLE TRIGGER design_append_only;
ALTER TABLE capture ENABLE TRIGGER capture_append_only;
ALTER TABLE handover ENABLE TRIGGER handover_append_only;

ALTER TABLE reading
    DROP CONSTRAINT reading_of_job,
    ADD CONSTRAINT reading_of_thing UNIQUE (id, job_id, thing),
    ADD CONSTRAINT reading_superseded_once UNIQUE (supersedes),
    ADD CONSTRAINT reading_supersedes_same FOREIGN KEY (supersedes, job_id, thing) REFERENCES reading (id, job_id, thing);
-- Of two first readings of one thing only one may stand; the other has to supersede it knowingly.
CREATE UNIQUE INDEX reading_first_once ON reading (job_id, thing) WHERE supersedes IS NULL;

ALTER TABLE reading VALIDATE CONSTRAINT reading_own_fan;
ALTER TABLE reading VALIDATE CONSTRAINT reading_own_design;
ALTER TABLE reading VALIDATE CONSTRAINT reading_own_run;
ALTER TABLE design VALIDATE CONSTRAINT design_restores_own;
ALTER TABLE capture VALIDATE CONSTRAINT capture_own_design;
ALTER TABLE handover VALIDATE CONSTRAINT handover_own_design;
