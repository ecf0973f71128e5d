import { toDegrees, type AdjustedUnknown, type UnknownGroup } from '@pampero/core/strips';

export const GROUP_NAMES: Readonly<Record<UnknownGroup, string>> = {
  boresight: 'Boresight',
  leverArm: 'Lever arm',
  rangeOffset: 'Range offset',
  rangeScale: 'Range scale',
  angleScale: 'Scan angle scale',
  stripHeight: 'Height of strip',
  stripPlan: 'Plan shift of strip',
  stripTilt: 'Tilt of strip',
  stripDrift: 'Drift of strip',
  timeHeight: 'Height in time',
  timePlan: 'Plan in time',
  timeTilt: 'Attitude in time',
};
const TURNS = ['roll', 'pitch', 'heading'];
const BODY = ['forward', 'right', 'down'];
const MAP = ['east', 'north', 'up'];

export function labelOf({ group, of, axis }: AdjustedUnknown, names: readonly string[]): string {
  const name = GROUP_NAMES[group];
  if (group === 'boresight') return `${name}, ${TURNS[axis]}`;
  if (group === 'leverArm') return `${name}, ${BODY[axis]}`;
  if (group.startsWith('time'))
    return `${name}${group === 'timeHeight' ? '' : `, ${axis >= 3 ? TURNS[axis - 3] : MAP[axis]}`}, value ${of! + 1}`;
  if (group === 'stripTilt') return `${name} ${names[of!]}, ${TURNS[axis]}`;
  if (group === 'stripPlan') return `${name} ${names[of!]}, ${MAP[axis]}`;
  return of === undefined ? name : `${name} ${names[of]}`;
}

const isTurn = ({ group }: AdjustedUnknown): boolean => ['boresight', 'stripTilt', 'timeTilt'].includes(group);
const isShare = ({ group }: AdjustedUnknown): boolean => group === 'rangeScale' || group === 'angleScale';

export function shownUnit(unknown: AdjustedUnknown, short: string) {
  const { value, standardDeviation } = unknown;
  if (isTurn(unknown)) return { unit: '°', value: toDegrees(value), standardDeviation: toDegrees(standardDeviation) };
  if (isShare(unknown)) return { unit: 'ppm', value: value * 1e6, standardDeviation: standardDeviation * 1e6 };
  return { unit: short, value, standardDeviation };
}

export function valueText(unknown: AdjustedUnknown, short: string): string {
  const { unit, value, standardDeviation } = shownUnit(unknown, short);
  const decimals = unit === '°' ? 4 : unit === 'ppm' ? 0 : 3;
  return `${value.toFixed(decimals)} ± ${standardDeviation.toFixed(decimals)}${unit === '°' ? '°' : ` ${unit}`}`;
}
