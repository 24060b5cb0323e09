import type { JobPageData } from '../../api/client';
import type { Control } from './query';

/** A usual control, its angles to be set for the wanted speeds. */
export const USUAL: Control = {
  method: 'phase-angle',
  fired_by: 'table',
  angles: [],
  network: { least: '3k3', knob: '470k', capacitor: '100n', breakover: '32V', breakback: '10V', across: '', second_ohm: '', second_f: '', taper: 'linear' },
  triac: { rms: '', surge: '', off_state: '', gate: '', holding: '', latching: '', threshold: '', slope: '', case: '', junction: '', dvdt: '' },
  unit: { detector: '', detector_output: '', ctr_low: '', ctr_high: '', edge: 'middle', lag: '', pulse: 'short', opto: '', logic_v: '', logic_a: '' },
  kick: false,
  snubbed: true,
  filtered: true,
  fused: true,
};

export const chosenControl = (page: JobPageData): Control | null => (page.design?.design.method === 'phase-angle' ? page.design.design : null);

export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
