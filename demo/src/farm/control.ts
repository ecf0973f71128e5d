import { seededRandom } from '@pampero/core/task';
import { CORNER, distanceToBank, EXTENT, groundElevation, isGravel, waterElevation } from './terrain.js';

export interface SurveyedPoint {
  readonly number: string;
  readonly northing: number;
  readonly easting: number;
  readonly elevation: number;
  /** GCP control target, CHK check point on bare ground, VEG check point in vegetation, CREST check point on the crest. */
  readonly code: string;
}

/** Control targets and check points as a rover on the ground would give them: 8 mm in plan, 10 mm up (one sigma). */
export function surveyedPoints(seed: number): { control: SurveyedPoint[]; check: SurveyedPoint[] } {
  const random = seededRandom(seed);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const survey = (number: string, east: number, north: number, code: string): SurveyedPoint => ({
    number,
    easting: CORNER.easting + east + 0.008 * normal(),
    northing: CORNER.northing + north + 0.008 * normal(),
    elevation: groundElevation(east, north) + 0.01 * normal(),
    code,
  });
  const control = [
    [22, 24],
    [282, 18],
    [536, 30],
    [530, 224],
    [540, 400],
    [286, 402],
    [24, 398],
    [30, 214],
  ].map(([e, n], i) => survey(`C${i + 1}`, e!, n!, 'GCP'));
  const check: SurveyedPoint[] = [];
  while (check.length < 36) {
    const east = 12 + (EXTENT.east - 24) * random();
    const north = 12 + (EXTENT.north - 24) * random();
    const d = Math.abs(distanceToBank(east, north));
    const isSlope = d > 2.4 && d < 12;
    if (isSlope || waterElevation(east, north) > groundElevation(east, north) - 1) continue;
    const code = d < 2.4 ? 'CREST' : check.length % 6 === 5 ? 'VEG' : isGravel(east, north) ? 'ROAD' : 'CHK';
    check.push(survey(`K${check.length + 1}`, east, north, code));
  }
  return { control, check };
}

/** Point, northing, easting, elevation, description: PNEZD, to the millimetre. */
export function pnezd(points: readonly SurveyedPoint[]): string {
  const rows = points.map((p) =>
    [p.number, p.northing.toFixed(3), p.easting.toFixed(3), p.elevation.toFixed(3), p.code].join(','),
  );
  return ['point,northing,easting,elevation,code', ...rows, ''].join('\n');
}
