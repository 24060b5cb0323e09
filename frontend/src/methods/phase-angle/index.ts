import { lazy } from 'react';
import type { MethodView } from '../seam';
import { asText, firingQuery } from './query';

export const phaseAngle: MethodView<'phase-angle'> = {
  tab: 'phase angle',
  name: 'phase angle',
  needs: { heading: 'fires at', help: '“Fires at” is the angle, from the mains’ zero, that gives exactly this speed behind a triac;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: (design) => (design.fired_by === 'knob' ? 'knob with diac' : 'fired by microcontroller'),
  ProveTools: lazy(() => import('./ProveTools')),
  files: (page, design) => {
    const path = `/api/jobs/${page.job.id}`;
    const waves = { to: `${path}/waves.svg`, text: 'waveforms, SVG' };
    if (design.fired_by === 'knob') return [waves, { to: `${path}/knob-scale.svg?${asText(design.network ?? {})}`, text: 'scale of the knob, SVG' }];
    const table = asText(firingQuery(design, 'steps', 16));
    return [waves, { to: `${path}/firing.csv?${table}`, text: 'firing table, CSV' }, { to: `${path}/firing.h?${table}`, text: 'firing table, C' }];
  },
};
