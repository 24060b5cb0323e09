import type { Control, FiringAsked, JobPageData } from '../../api/client';

/** A usual control, its angles to be set for the wanted speeds. */
export const USUAL: Control = {
  fired_by: 'table',
  angles: [],
  network: { least: '3k3', knob: '470k', capacitor: '100n', breakover: '32V', breakback: '10V', across: '', second_ohm: '', second_f: '', taper: 'linear' },
  triac: { rms: '', surge: '', off_state: '', gate: '', holding: '', latching: '', threshold: '', slope: '', case: '', junction: '', dvdt: '' },
  unit: { detector: '', detector_output: '', ctr_low: '', ctr_high: '', edge: 'middle', lag: '', pulse: 'short', opto: '', logic_v: '', logic_a: '' },
  starts_full: false,
  snubbed: true,
  filtered: true,
  fused: true,
};

export const chosenControl = (page: JobPageData): Control | null => page.design?.control ?? null;

export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** What a firing table is asked with, from a control. */
export function firingQuery(control: Control, spacing: NonNullable<FiringAsked['spacing']>, steps: number): FiringAsked {
  const unit = control.unit ?? {};
  return {
    spacing,
    steps,
    kick: control.starts_full ?? false,
    edge: unit.edge ?? 'middle',
    pulse: unit.pulse ?? 'short',
    lag: unit.lag ?? '',
    detector: unit.detector ?? '',
    detector_output: unit.detector_output ?? '',
    ctr_low: unit.ctr_low ?? '',
    ctr_high: unit.ctr_high ?? '',
    latching: control.triac?.latching ?? '',
  };
}

/** Any query as the text of an address. */
export const asText = (query: object) => new URLSearchParams(Object.entries(query).map(([k, v]) => [k, String(v)])).toString();
