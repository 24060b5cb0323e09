import { lazy } from 'react';
import type { MethodView } from '../seam';

export const seriesResistor: MethodView<'series-resistor'> = {
  tab: 'resistors in the line',
  name: 'a series resistor',
  needs: { heading: 'needs in the line', help: '“Needs in the line” is the series resistor that would give exactly this speed;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: (_, frame) =>
    `resistors ${frame.parts
      .filter((p) => p.kind === 'resistor')
      .map((p) => p.bench)
      .join(', ')}`,
};
