import { lazy } from 'react';
import type { MethodView } from '../seam';

export const steppedVoltage: MethodView<'stepped-voltage'> = {
  tab: 'stepped volts',
  name: 'stepped volts',
  needs: { heading: 'needs a tap of', help: '“Needs a tap of” is the open volts that would give exactly this speed;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: (_, frame) => frame.parts.find((p) => p.name === 'TR')?.text ?? 'the transformer',
};
