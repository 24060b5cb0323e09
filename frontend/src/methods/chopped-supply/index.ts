import { lazy } from 'react';
import type { MethodView } from '../seam';

export const choppedSupply: MethodView<'chopped-supply'> = {
  tab: 'chopped supply',
  name: 'a chopped supply',
  needs: { heading: 'duty', help: '“Duty” is the share of the time for which the fan has its supply;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: (design) => `${design.duties.join(', ')} of the supply`,
};
