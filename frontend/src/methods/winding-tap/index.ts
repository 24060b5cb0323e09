import { lazy } from 'react';
import type { MethodView } from '../seam';

export const windingTap: MethodView<'winding-tap'> = {
  tab: 'winding taps',
  name: 'winding taps',
  needs: { heading: 'nearest tap', help: '“Nearest tap” is the tap whose speed comes nearest: nothing lies between a motor’s taps;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: (design) => `taps ${design.positions.map((fed) => fed.join(' + ')).join(', ')}`,
};
