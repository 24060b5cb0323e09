import { lazy } from 'react';
import type { MethodView } from '../seam';

export const dcVoltage: MethodView<'dc-voltage'> = {
  tab: 'lower volts',
  name: 'lower DC volts',
  needs: { heading: 'volts', help: '“Volts” are those at the fan’s own leads while it runs;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: (design) => `${design.settings.join(', ')}, ${design.way ?? 'switching'}`,
};
