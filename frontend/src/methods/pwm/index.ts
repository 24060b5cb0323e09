import { lazy } from 'react';
import type { MethodView } from '../seam';

export const pwm: MethodView<'pwm'> = {
  tab: 'control lead',
  name: 'a duty on the control lead',
  needs: { heading: 'duty', help: '“Duty” is the share of the time for which the lead must be high;' },
  Sizer: lazy(() => import('./Sizer')),
  ProveTools: lazy(() => import('./ProveTools')),
  proved: () => 'by a duty on the control lead',
  files: (page, design) => {
    if (design.maker !== 'microcontroller' && design.maker !== 'bench') return [];
    const path = `/api/jobs/${page.job.id}`;
    return [
      { to: `${path}/duty.h`, text: 'duties, C header' },
      { to: `${path}/duty.csv`, text: 'duties, CSV' },
    ];
  },
};
