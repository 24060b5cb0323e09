import { lazy } from 'react';
import type { MethodView } from '../seam';

export const seriesCapacitor: MethodView<'series-capacitor'> = {
  tab: 'capacitors in the line',
  name: 'a series capacitor',
  needs: { heading: 'needs in the line', help: '“Needs in the line” is the series capacitor that would give exactly this speed;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: (_, frame) =>
    `bank ${frame.parts
      .filter((p) => p.kind === 'capacitor')
      .map((p) => p.bench)
      .join(', ')}`,
};
