-- What labels say besides: shaft power, volt-amps, air, sweep and the warmest room; and each value as it was printed.
ALTER TABLE fan
    ADD COLUMN shaft_power_w double precision CONSTRAINT fan_shaft_power CHECK (shaft_power_w > 0),
    ADD COLUMN apparent_power_va double precision CONSTRAINT fan_apparent_power CHECK (apparent_power_va > 0),
    ADD COLUMN airflow_m3_per_s double precision CONSTRAINT fan_airflow CHECK (airflow_m3_per_s > 0),
    ADD COLUMN sweep_m double precision CONSTRAINT fan_sweep CHECK (sweep_m > 0),
    ADD COLUMN ambient_c double precision CONSTRAINT fan_ambient CHECK (ambient_c BETWEEN -40 AND 250),
    ADD COLUMN printed jsonb NOT NULL DEFAULT '{}' CONSTRAINT fan_printed CHECK (jsonb_typeof(printed) = 'object');
COMMENT ON COLUMN fan.printed IS 'field and its text as printed, where the value alone does not say it: 220–240 V, 1/4 hp';
