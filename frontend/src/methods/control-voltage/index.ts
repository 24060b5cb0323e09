import { lazy } from 'react';
import type { MethodView } from '../seam';

export const controlVoltage: MethodView<'control-voltage'> = {
  tab: '0–10 V',
  name: 'a voltage on the control input',
  needs: { heading: 'volts', help: '“Volts” are those the control input must get, against the fan’s own 0 V;' },
  Sizer: lazy(() => import('./Sizer')),
  proved: () => 'by the volts on its control input',
};
