CREATE FUNCTION public.refuse_change() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
BEGIN
    RAISE EXCEPTION '% is only ever added to', TG_TABLE_NAME;
END $$;
CREATE TABLE public.answer (
    id bigint NOT NULL,
    job_id bigint NOT NULL,
    device text NOT NULL,
    quantity text NOT NULL,
    outcome text NOT NULL,
    value double precision,
    words text NOT NULL,
    took_s double precision NOT NULL,
    who text DEFAULT ''::text NOT NULL,
    at timestamp with time zone DEFAULT clock_timestamp() NOT NULL,
    CONSTRAINT answer_device_length CHECK (((char_length(device) >= 1) AND (char_length(device) <= 60))),
    CONSTRAINT answer_outcome CHECK ((outcome = ANY (ARRAY['value'::text, 'late'::text, 'lost'::text, 'moving'::text, 'absurd'::text, 'refused'::text]))),
    CONSTRAINT answer_quantity_length CHECK (((char_length(quantity) >= 1) AND (char_length(quantity) <= 80))),
    CONSTRAINT answer_took CHECK ((took_s >= (0)::double precision)),
    CONSTRAINT answer_value CHECK ((((outcome = 'value'::text) = (value IS NOT NULL)) OR (outcome = ANY (ARRAY['late'::text, 'moving'::text, 'absurd'::text])))),
    CONSTRAINT answer_who_length CHECK ((char_length(who) <= 80)),
    CONSTRAINT answer_words_length CHECK ((char_length(words) <= 300))
);
ALTER TABLE public.answer ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.answer_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.capture (
    id bigint NOT NULL,
    job_id bigint NOT NULL,
    design_id bigint NOT NULL,
    step smallint NOT NULL,
    name text DEFAULT ''::text NOT NULL,
    shown jsonb NOT NULL,
    who text DEFAULT ''::text NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL,
    CONSTRAINT capture_name_length CHECK ((char_length(name) <= 120)),
    CONSTRAINT capture_step CHECK (((step >= 1) AND (step <= 8)))
);
COMMENT ON COLUMN public.capture.shown IS 'one period of what was captured, and what was read from it';
ALTER TABLE public.capture ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.capture_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.card (
    job_id bigint NOT NULL,
    core_version text NOT NULL,
    waits_kind text NOT NULL,
    search text NOT NULL,
    body jsonb NOT NULL,
    saved_at timestamp with time zone DEFAULT '-infinity'::timestamp with time zone NOT NULL
);
COMMENT ON COLUMN public.card.saved_at IS 'when the job it was made of had been saved last';
CREATE TABLE public.design (
    id bigint NOT NULL,
    job_id bigint NOT NULL,
    revision integer NOT NULL,
    core_version text NOT NULL,
    who text DEFAULT ''::text NOT NULL,
    made_at timestamp with time zone DEFAULT now() NOT NULL,
    regulator jsonb,
    kept jsonb,
    restores bigint,
    name text DEFAULT ''::text NOT NULL,
    method text GENERATED ALWAYS AS (
CASE
    WHEN (regulator IS NULL) THEN NULL::text
    WHEN (regulator ? 'method'::text) THEN (regulator ->> 'method'::text)
    WHEN (regulator ? 'firing_deg'::text) THEN 'phase-angle'::text
    WHEN (regulator ?& ARRAY['capacitors'::text, 'patterns'::text]) THEN 'series-capacitor'::text
    ELSE NULL::text
END) STORED,
    CONSTRAINT design_name_length CHECK ((char_length(name) <= 120))
);
COMMENT ON COLUMN public.design.regulator IS 'the design as a document with its method and form; NULL: the choice was undone';
COMMENT ON COLUMN public.design.kept IS 'what the core of that version predicted, by name';
COMMENT ON COLUMN public.design.restores IS 'the design whose bank and readings this revision brings back';
COMMENT ON COLUMN public.design.method IS 'as the document says, or told by its keys where it was written before it said so';
ALTER TABLE public.design ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.design_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.desk_answer (
    id bigint NOT NULL,
    card text NOT NULL,
    given jsonb NOT NULL,
    said text NOT NULL,
    who text DEFAULT ''::text NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL,
    CONSTRAINT desk_card CHECK ((card ~ '^[a-z0-9-]{1,40}$'::text)),
    CONSTRAINT desk_given CHECK ((jsonb_typeof(given) = 'object'::text)),
    CONSTRAINT desk_said CHECK ((length(said) <= 400)),
    CONSTRAINT desk_who CHECK ((length(who) <= 80))
);
COMMENT ON TABLE public.desk_answer IS 'calls of the Desk: the fields as typed, and the answer in a line';
ALTER TABLE public.desk_answer ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.desk_answer_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.event (
    id bigint NOT NULL,
    job_id bigint,
    kind text NOT NULL,
    detail jsonb DEFAULT '{}'::jsonb NOT NULL,
    who text DEFAULT ''::text NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL
);
ALTER TABLE public.event ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.event_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.fan (
    id bigint NOT NULL,
    version integer DEFAULT 1 NOT NULL,
    name text NOT NULL,
    place text DEFAULT ''::text NOT NULL,
    maker text DEFAULT ''::text NOT NULL,
    serial text DEFAULT ''::text NOT NULL,
    motor_kind text,
    poles integer,
    rated_voltage_v double precision,
    rated_frequency_hz double precision,
    rated_speed_rpm double precision,
    rated_current_a double precision,
    rated_power_w double precision,
    run_capacitance_f double precision,
    findings jsonb DEFAULT '{}'::jsonb NOT NULL,
    shaft_power_w double precision,
    apparent_power_va double precision,
    airflow_m3_per_s double precision,
    sweep_m double precision,
    ambient_c double precision,
    printed jsonb DEFAULT '{}'::jsonb NOT NULL,
    CONSTRAINT fan_airflow CHECK ((airflow_m3_per_s > (0)::double precision)),
    CONSTRAINT fan_ambient CHECK (((ambient_c >= ('-40'::integer)::double precision) AND (ambient_c <= (250)::double precision))),
    CONSTRAINT fan_apparent_power CHECK ((apparent_power_va > (0)::double precision)),
    CONSTRAINT fan_maker_length CHECK ((char_length(maker) <= 120)),
    CONSTRAINT fan_name_length CHECK (((char_length(name) >= 1) AND (char_length(name) <= 120))),
    CONSTRAINT fan_place_length CHECK ((char_length(place) <= 120)),
    CONSTRAINT fan_poles_even CHECK ((((poles >= 2) AND (poles <= 48)) AND ((poles % 2) = 0))),
    CONSTRAINT fan_printed CHECK ((jsonb_typeof(printed) = 'object'::text)),
    CONSTRAINT fan_rated_current CHECK ((rated_current_a > (0)::double precision)),
    CONSTRAINT fan_rated_frequency CHECK ((rated_frequency_hz > (0)::double precision)),
    CONSTRAINT fan_rated_power CHECK ((rated_power_w > (0)::double precision)),
    CONSTRAINT fan_rated_speed CHECK ((rated_speed_rpm > (0)::double precision)),
    CONSTRAINT fan_rated_voltage CHECK ((rated_voltage_v > (0)::double precision)),
    CONSTRAINT fan_run_capacitance CHECK ((run_capacitance_f > (0)::double precision)),
    CONSTRAINT fan_serial_length CHECK ((char_length(serial) <= 120)),
    CONSTRAINT fan_shaft_power CHECK ((shaft_power_w > (0)::double precision)),
    CONSTRAINT fan_sweep CHECK ((sweep_m > (0)::double precision))
);
COMMENT ON COLUMN public.fan.findings IS 'observations, leads, capacitor block; one document, keys left out as usual';
COMMENT ON COLUMN public.fan.printed IS 'field and its text as printed, where the value alone does not say it: 220–240 V, 1/4 hp';
ALTER TABLE public.fan ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.fan_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.handover (
    id bigint NOT NULL,
    job_id bigint NOT NULL,
    design_id bigint,
    who text NOT NULL,
    note text DEFAULT ''::text NOT NULL,
    recheck_on date,
    core_version text NOT NULL,
    record jsonb NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL,
    imported boolean DEFAULT false NOT NULL,
    CONSTRAINT handover_note_length CHECK ((char_length(note) <= 2000)),
    CONSTRAINT handover_signed CHECK (((char_length(who) >= 1) AND (char_length(who) <= 120)))
);
COMMENT ON COLUMN public.handover.record IS 'the whole report as it was signed';
COMMENT ON COLUMN public.handover.imported IS 'it came with a file: nobody signed in this database';
ALTER TABLE public.handover ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.handover_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.instrument (
    id bigint NOT NULL,
    version integer DEFAULT 1 NOT NULL,
    name text NOT NULL,
    true_rms boolean DEFAULT true NOT NULL,
    ranges jsonb DEFAULT '[]'::jsonb NOT NULL,
    gone boolean DEFAULT false NOT NULL,
    saved_at timestamp with time zone DEFAULT now() NOT NULL,
    CONSTRAINT instrument_name_length CHECK (((char_length(name) >= 1) AND (char_length(name) <= 120)))
);
COMMENT ON COLUMN public.instrument.ranges IS 'per function: highest value, per cent of reading, digits, resolution';
ALTER TABLE public.instrument ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.instrument_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.job (
    id bigint NOT NULL,
    version integer DEFAULT 1 NOT NULL,
    fan_id bigint NOT NULL,
    wish text DEFAULT ''::text NOT NULL,
    supply_voltage_v double precision DEFAULT 230 NOT NULL,
    supply_frequency_hz double precision DEFAULT 50 NOT NULL,
    wanted_rpm double precision[] DEFAULT '{}'::double precision[] NOT NULL,
    created_at timestamp with time zone DEFAULT now() NOT NULL,
    saved_at timestamp with time zone DEFAULT now() NOT NULL,
    profile jsonb DEFAULT '{}'::jsonb NOT NULL,
    sizing jsonb DEFAULT '{}'::jsonb NOT NULL,
    board jsonb DEFAULT '{}'::jsonb NOT NULL,
    air jsonb DEFAULT '{}'::jsonb NOT NULL,
    meant text[] DEFAULT '{}'::text[] NOT NULL,
    commanded jsonb DEFAULT '{}'::jsonb NOT NULL,
    hold jsonb DEFAULT '{}'::jsonb NOT NULL,
    wiring text DEFAULT ''::text NOT NULL,
    CONSTRAINT job_air CHECK ((jsonb_typeof(air) = 'object'::text)),
    CONSTRAINT job_board CHECK ((jsonb_typeof(board) = 'object'::text)),
    CONSTRAINT job_commanded CHECK ((jsonb_typeof(commanded) = 'object'::text)),
    CONSTRAINT job_hold CHECK ((jsonb_typeof(hold) = 'object'::text)),
    CONSTRAINT job_meant CHECK ((cardinality(meant) <= 8)),
    CONSTRAINT job_supply_frequency CHECK ((supply_frequency_hz > (0)::double precision)),
    CONSTRAINT job_supply_voltage CHECK ((supply_voltage_v > (0)::double precision)),
    CONSTRAINT job_wanted_count CHECK ((cardinality(wanted_rpm) <= 8)),
    CONSTRAINT job_wiring CHECK ((char_length(wiring) <= 400000)),
    CONSTRAINT job_wish_length CHECK ((char_length(wish) <= 2000))
);
COMMENT ON COLUMN public.job.profile IS 'acceptance profile; keys left out have the usual limit';
COMMENT ON COLUMN public.job.sizing IS 'switch, class of capacitors and fixed parts for the search; keys left out as usual';
COMMENT ON COLUMN public.job.board IS 'topology, parts as far as they can be read, how it is built, what was seen; empty: none came in';
COMMENT ON COLUMN public.job.air IS 'altitude, fan curve, system, heat, noise and resonances as far as they are known';
COMMENT ON COLUMN public.job.meant IS 'beside wanted_rpm: each target as it was meant, like 1400 m³/h; empty: the speed itself';
COMMENT ON COLUMN public.job.commanded IS 'map of speeds, leads, signal and supply of a fan with electronics, as far as they are known';
COMMENT ON COLUMN public.job.hold IS 'what the fan holds by itself, a flow, a pressure or a temperature, and how; empty: nothing';
COMMENT ON COLUMN public.job.wiring IS 'the circuit as a fenwit-circuit/1 document; empty: none';
ALTER TABLE public.job ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.job_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.migration (
    number integer NOT NULL,
    applied_at timestamp with time zone DEFAULT now() NOT NULL
);
CREATE TABLE public.reading (
    id bigint NOT NULL,
    fan_id bigint NOT NULL,
    job_id bigint NOT NULL,
    design_id bigint,
    step integer,
    quantity text NOT NULL,
    value double precision,
    typed text NOT NULL,
    expected_low double precision,
    expected_high double precision,
    who text DEFAULT ''::text NOT NULL,
    taken_at timestamp with time zone DEFAULT now() NOT NULL,
    supersedes bigint,
    run_id bigint,
    instrument_id bigint,
    sigma double precision,
    aside boolean DEFAULT false NOT NULL,
    thing text GENERATED ALWAYS AS (((((((quantity || '|'::text) || COALESCE((step)::text, ''::text)) || '|'::text) || COALESCE((run_id)::text, ''::text)) || '|'::text) || COALESCE((design_id)::text, ''::text))) STORED NOT NULL,
    winding text,
    winding_c double precision,
    source text DEFAULT ''::text NOT NULL,
    CONSTRAINT reading_run_or_step CHECK (((run_id IS NULL) OR (step IS NULL))),
    CONSTRAINT reading_sigma CHECK (((sigma > (0)::double precision) AND (sigma <= (1)::double precision))),
    CONSTRAINT reading_source_length CHECK ((char_length(source) <= 120)),
    CONSTRAINT reading_step CHECK (((step >= 1) AND (step <= 8))),
    CONSTRAINT reading_step_has_design CHECK (((step IS NULL) = (design_id IS NULL))),
    CONSTRAINT reading_typed_length CHECK ((char_length(typed) <= 40)),
    CONSTRAINT reading_winding CHECK ((winding = ANY (ARRAY['cold'::text, 'warm'::text, 'at'::text]))),
    CONSTRAINT reading_winding_at CHECK (((NOT (winding IS DISTINCT FROM 'at'::text)) = (winding_c IS NOT NULL))),
    CONSTRAINT reading_winding_c CHECK (((winding_c >= ('-40'::integer)::double precision) AND (winding_c <= (200)::double precision)))
);
COMMENT ON COLUMN public.reading.value IS 'SI value; NULL takes back the reading it supersedes';
COMMENT ON COLUMN public.reading.sigma IS 'relative standard uncertainty by the instrument, as it was when the reading was taken';
COMMENT ON COLUMN public.reading.aside IS 'kept, but not believed';
COMMENT ON COLUMN public.reading.thing IS 'what was read and where; a correction is of the same thing';
COMMENT ON COLUMN public.reading.winding IS 'of ohms: cold, warm straight after running, or at winding_c; null: unsaid, taken as cold';
COMMENT ON COLUMN public.reading.source IS 'the device it was read off, and where in it; empty: typed by hand';
ALTER TABLE public.reading ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.reading_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.reservation (
    part_id bigint NOT NULL,
    job_id bigint NOT NULL,
    reserved integer DEFAULT 0 NOT NULL,
    used integer DEFAULT 0 NOT NULL,
    CONSTRAINT reservation_reserved CHECK ((reserved >= 0)),
    CONSTRAINT reservation_used CHECK ((used >= 0))
);
CREATE TABLE public.run (
    id bigint NOT NULL,
    job_id bigint NOT NULL,
    what text NOT NULL,
    value double precision,
    typed text DEFAULT ''::text NOT NULL,
    gone boolean DEFAULT false NOT NULL,
    who text DEFAULT ''::text NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL,
    frequency_hz double precision,
    CONSTRAINT run_frequency CHECK (((frequency_hz >= (20)::double precision) AND (frequency_hz <= (1000000)::double precision))),
    CONSTRAINT run_has_value CHECK (((value IS NULL) = (what = ANY (ARRAY['bare-shaft'::text, 'locked'::text, 'direct'::text])))),
    CONSTRAINT run_swept CHECK (((frequency_hz IS NULL) OR (what = 'duty'::text))),
    CONSTRAINT run_typed_length CHECK ((char_length(typed) <= 40)),
    CONSTRAINT run_value CHECK ((value > (0)::double precision)),
    CONSTRAINT run_what CHECK ((what = ANY (ARRAY['capacitor'::text, 'resistor'::text, 'voltage'::text, 'duty'::text, 'control'::text, 'bare-shaft'::text, 'locked'::text, 'direct'::text])))
);
COMMENT ON COLUMN public.run.value IS 'F, Ω or V of what stood in the line, the duty on the control lead, or volts on the control input';
COMMENT ON COLUMN public.run.frequency_hz IS 'of the signal on the control lead, where the run is one of a sweep; null: as it came';
ALTER TABLE public.run ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.run_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.shelf_part (
    id bigint NOT NULL,
    version integer DEFAULT 1 NOT NULL,
    class text NOT NULL,
    nominal double precision NOT NULL,
    measured double precision,
    tolerance double precision DEFAULT 0 NOT NULL,
    rating double precision NOT NULL,
    count integer DEFAULT 1 NOT NULL,
    place text DEFAULT ''::text NOT NULL,
    note text DEFAULT ''::text NOT NULL,
    gone boolean DEFAULT false NOT NULL,
    saved_at timestamp with time zone DEFAULT now() NOT NULL,
    CONSTRAINT shelf_count CHECK (((count >= 0) AND (count <= 100000))),
    CONSTRAINT shelf_measured CHECK ((measured > (0)::double precision)),
    CONSTRAINT shelf_nominal CHECK ((nominal > (0)::double precision)),
    CONSTRAINT shelf_note_length CHECK ((char_length(note) <= 120)),
    CONSTRAINT shelf_place_length CHECK ((char_length(place) <= 120)),
    CONSTRAINT shelf_rating CHECK ((rating > (0)::double precision)),
    CONSTRAINT shelf_tolerance CHECK (((tolerance >= (0)::double precision) AND (tolerance <= (0.9)::double precision)))
);
COMMENT ON COLUMN public.shelf_part.nominal IS 'F, Ω or A by class; positions of a switch';
COMMENT ON COLUMN public.shelf_part.rating IS 'V of capacitors, fuses and switches, W of resistors';
ALTER TABLE public.shelf_part ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.shelf_part_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
ALTER TABLE ONLY public.answer
    ADD CONSTRAINT answer_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.capture
    ADD CONSTRAINT capture_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.card
    ADD CONSTRAINT card_pkey PRIMARY KEY (job_id);
ALTER TABLE public.design
    ADD CONSTRAINT design_method CHECK ((method = ANY (ARRAY['series-capacitor'::text, 'series-resistor'::text, 'phase-angle'::text, 'stepped-voltage'::text, 'winding-tap'::text, 'dc-voltage'::text, 'chopped-supply'::text, 'pwm'::text, 'control-voltage'::text, 'variable-frequency'::text]))) NOT VALID;
ALTER TABLE ONLY public.design
    ADD CONSTRAINT design_of_job UNIQUE (id, job_id);
ALTER TABLE ONLY public.design
    ADD CONSTRAINT design_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.design
    ADD CONSTRAINT design_revision_once UNIQUE (job_id, revision);
ALTER TABLE public.design
    ADD CONSTRAINT design_says_its_method CHECK (((regulator IS NULL) = (method IS NULL))) NOT VALID;
ALTER TABLE ONLY public.desk_answer
    ADD CONSTRAINT desk_answer_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.event
    ADD CONSTRAINT event_pkey PRIMARY KEY (id);
ALTER TABLE public.fan
    ADD CONSTRAINT fan_motor_kind CHECK ((motor_kind = ANY (ARRAY['shaded-pole'::text, 'psc'::text, 'psc-tapped'::text, 'split-phase'::text, 'capacitor-start'::text, 'capacitor-start-run'::text, 'universal'::text, 'three-phase'::text, 'ec-control-input'::text, 'ec-replacement'::text, 'dc-2-wire'::text, 'dc-3-wire'::text, 'dc-4-wire'::text, 'dc-brushed'::text]))) NOT VALID;
ALTER TABLE ONLY public.fan
    ADD CONSTRAINT fan_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.handover
    ADD CONSTRAINT handover_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.instrument
    ADD CONSTRAINT instrument_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.job
    ADD CONSTRAINT job_of_fan UNIQUE (id, fan_id);
ALTER TABLE ONLY public.job
    ADD CONSTRAINT job_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.migration
    ADD CONSTRAINT migration_pkey PRIMARY KEY (number);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_of_thing UNIQUE (id, job_id, thing);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_superseded_once UNIQUE (supersedes);
ALTER TABLE public.reading
    ADD CONSTRAINT reading_value CHECK (((value >= (0)::double precision) OR (quantity ~~ '%temperature\_c'::text))) NOT VALID;
ALTER TABLE ONLY public.reservation
    ADD CONSTRAINT reservation_pkey PRIMARY KEY (part_id, job_id);
ALTER TABLE ONLY public.run
    ADD CONSTRAINT run_of_job UNIQUE (id, job_id);
ALTER TABLE ONLY public.run
    ADD CONSTRAINT run_pkey PRIMARY KEY (id);
ALTER TABLE public.shelf_part
    ADD CONSTRAINT shelf_class CHECK ((class = ANY (ARRAY['x2-film'::text, 'motor-run'::text, 'dc-film'::text, 'electrolytic'::text, 'metal-film'::text, 'wirewound'::text, 'fuse'::text, 'switch'::text]))) NOT VALID;
ALTER TABLE ONLY public.shelf_part
    ADD CONSTRAINT shelf_part_pkey PRIMARY KEY (id);
CREATE INDEX answer_by_job ON public.answer USING btree (job_id, id DESC);
CREATE INDEX capture_by_step ON public.capture USING btree (job_id, design_id, step, id);
CREATE INDEX card_by_kind ON public.card USING btree (waits_kind, job_id);
CREATE INDEX desk_answer_card ON public.desk_answer USING btree (card, id DESC);
CREATE INDEX event_by_job ON public.event USING btree (job_id, id DESC);
CREATE INDEX event_of_shelf ON public.event USING btree (id DESC) WHERE (job_id IS NULL);
CREATE INDEX handover_by_job ON public.handover USING btree (job_id, id DESC);
CREATE INDEX job_by_fan ON public.job USING btree (fan_id);
CREATE INDEX reading_by_fan ON public.reading USING btree (fan_id, taken_at);
CREATE INDEX reading_by_job ON public.reading USING btree (job_id);
CREATE UNIQUE INDEX reading_first_once ON public.reading USING btree (job_id, thing) WHERE (supersedes IS NULL);
CREATE INDEX reservation_by_job ON public.reservation USING btree (job_id);
CREATE INDEX run_by_job ON public.run USING btree (job_id, id);
CREATE UNIQUE INDEX run_swept_once ON public.run USING btree (job_id, frequency_hz, value) WHERE ((frequency_hz IS NOT NULL) AND (NOT gone));
CREATE TRIGGER answer_append_only BEFORE DELETE OR UPDATE ON public.answer FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER answer_not_emptied BEFORE TRUNCATE ON public.answer FOR EACH STATEMENT EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER capture_append_only BEFORE DELETE OR UPDATE ON public.capture FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER capture_not_emptied BEFORE TRUNCATE ON public.capture FOR EACH STATEMENT EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER design_append_only BEFORE DELETE OR UPDATE ON public.design FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER design_not_emptied BEFORE TRUNCATE ON public.design FOR EACH STATEMENT EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER event_append_only BEFORE DELETE OR UPDATE ON public.event FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER event_not_emptied BEFORE TRUNCATE ON public.event FOR EACH STATEMENT EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER handover_append_only BEFORE DELETE OR UPDATE ON public.handover FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER handover_not_emptied BEFORE TRUNCATE ON public.handover FOR EACH STATEMENT EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER reading_append_only BEFORE DELETE OR UPDATE ON public.reading FOR EACH ROW EXECUTE FUNCTION public.refuse_change();
CREATE TRIGGER reading_not_emptied BEFORE TRUNCATE ON public.reading FOR EACH STATEMENT EXECUTE FUNCTION public.refuse_change();
ALTER TABLE ONLY public.answer
    ADD CONSTRAINT answer_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.capture
    ADD CONSTRAINT capture_design_id_fkey FOREIGN KEY (design_id) REFERENCES public.design(id);
ALTER TABLE ONLY public.capture
    ADD CONSTRAINT capture_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.capture
    ADD CONSTRAINT capture_own_design FOREIGN KEY (design_id, job_id) REFERENCES public.design(id, job_id);
ALTER TABLE ONLY public.card
    ADD CONSTRAINT card_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.design
    ADD CONSTRAINT design_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.design
    ADD CONSTRAINT design_restores_fkey FOREIGN KEY (restores) REFERENCES public.design(id);
ALTER TABLE ONLY public.design
    ADD CONSTRAINT design_restores_own FOREIGN KEY (restores, job_id) REFERENCES public.design(id, job_id);
ALTER TABLE ONLY public.event
    ADD CONSTRAINT event_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.handover
    ADD CONSTRAINT handover_design_id_fkey FOREIGN KEY (design_id) REFERENCES public.design(id);
ALTER TABLE ONLY public.handover
    ADD CONSTRAINT handover_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.handover
    ADD CONSTRAINT handover_own_design FOREIGN KEY (design_id, job_id) REFERENCES public.design(id, job_id);
ALTER TABLE ONLY public.job
    ADD CONSTRAINT job_fan_id_fkey FOREIGN KEY (fan_id) REFERENCES public.fan(id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_design_id_fkey FOREIGN KEY (design_id) REFERENCES public.design(id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_fan_id_fkey FOREIGN KEY (fan_id) REFERENCES public.fan(id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_instrument_id_fkey FOREIGN KEY (instrument_id) REFERENCES public.instrument(id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_own_design FOREIGN KEY (design_id, job_id) REFERENCES public.design(id, job_id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_own_fan FOREIGN KEY (job_id, fan_id) REFERENCES public.job(id, fan_id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_own_run FOREIGN KEY (run_id, job_id) REFERENCES public.run(id, job_id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_run_id_fkey FOREIGN KEY (run_id) REFERENCES public.run(id);
ALTER TABLE ONLY public.reading
    ADD CONSTRAINT reading_supersedes_same FOREIGN KEY (supersedes, job_id, thing) REFERENCES public.reading(id, job_id, thing);
ALTER TABLE ONLY public.reservation
    ADD CONSTRAINT reservation_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
ALTER TABLE ONLY public.reservation
    ADD CONSTRAINT reservation_part_id_fkey FOREIGN KEY (part_id) REFERENCES public.shelf_part(id);
ALTER TABLE ONLY public.run
    ADD CONSTRAINT run_job_id_fkey FOREIGN KEY (job_id) REFERENCES public.job(id);
GRANT USAGE ON SCHEMA public TO fenwit_app;
GRANT SELECT,INSERT ON TABLE public.answer TO fenwit_app;
GRANT SELECT,INSERT ON TABLE public.capture TO fenwit_app;
GRANT SELECT,INSERT,DELETE,UPDATE ON TABLE public.card TO fenwit_app;
GRANT SELECT,INSERT ON TABLE public.design TO fenwit_app;
GRANT SELECT,INSERT,DELETE ON TABLE public.desk_answer TO fenwit_app;
GRANT SELECT,INSERT ON TABLE public.event TO fenwit_app;
GRANT SELECT,INSERT,UPDATE ON TABLE public.fan TO fenwit_app;
GRANT SELECT,INSERT ON TABLE public.handover TO fenwit_app;
GRANT SELECT,INSERT,UPDATE ON TABLE public.instrument TO fenwit_app;
GRANT SELECT,INSERT,UPDATE ON TABLE public.job TO fenwit_app;
GRANT SELECT ON TABLE public.migration TO fenwit_app;
GRANT SELECT,INSERT ON TABLE public.reading TO fenwit_app;
GRANT SELECT,INSERT,UPDATE ON TABLE public.reservation TO fenwit_app;
GRANT SELECT,INSERT,UPDATE ON TABLE public.run TO fenwit_app;
GRANT SELECT,INSERT,UPDATE ON TABLE public.shelf_part TO fenwit_app;
