import { SCAN_ANGLE_STEP } from '@pampero/core/cloud';
import { columnValues, type RampedMode } from './colour-mode';

export const byScanAngle = {
  id: 'scan-angle',
  name: 'Scan angle',
  column: 'scanAngle',
  ramp: 'either-side',
  decimals: 1,
  unit: '°',
  usualRange: [-30, 30],
  valuesOf: (points) => {
    const out = columnValues(points, 'scanAngle', (bytes) => new Int16Array(bytes));
    for (let i = 0; i < out.length; i++) out[i]! *= SCAN_ANGLE_STEP;
    return out;
  },
} as const satisfies RampedMode;
