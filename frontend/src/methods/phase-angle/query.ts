import type { paths } from '../../api/schema';
import type { DesignOf } from '../seam';

export type Control = DesignOf<'phase-angle'>;
export type FiringAsked = NonNullable<paths['/api/jobs/{job_id}/firing']['get']['parameters']['query']>;

/** What a firing table is asked with, from a control. */
export function firingQuery(control: Control, spacing: NonNullable<FiringAsked['spacing']>, steps: number): FiringAsked {
  const unit = control.unit ?? {};
  return {
    spacing,
    steps,
    kick: control.kick ?? false,
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
