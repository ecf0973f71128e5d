import { ACCURACY_COLUMNS, toDegrees, wrapAngle, type Trajectory } from '../../strips/index.js';

const NAMES = {
  planAccuracy: 'sdPlan',
  heightAccuracy: 'sdHeight',
  tiltAccuracy: 'sdTilt',
  headingAccuracy: 'sdHeading',
};

/** A trajectory as text: times in seconds, positions in the job's coordinates, angles in degrees, headings from grid north. */
export function* writeTrajectory(trajectory: Trajectory): Generator<string> {
  const { time, east, north, up, roll, pitch, heading } = trajectory;
  const extra = ACCURACY_COLUMNS.filter((name) => trajectory[name] !== undefined);
  yield `${['time', 'east', 'north', 'height', 'roll', 'pitch', 'heading', ...extra.map((name) => NAMES[name])].join(',')}\n`;
  let lines = '';
  for (let i = 0; i < time.length; i++) {
    const course = toDegrees(wrapAngle(heading[i]!));
    const cells = [
      time[i]!.toFixed(6),
      east[i]!.toFixed(4),
      north[i]!.toFixed(4),
      up[i]!.toFixed(4),
      toDegrees(roll[i]!).toFixed(6),
      toDegrees(pitch[i]!).toFixed(6),
      (course < 0 ? course + 360 : course).toFixed(6),
      ...extra.map((name) => {
        const value = trajectory[name]![i]!;
        return name === 'tiltAccuracy' || name === 'headingAccuracy' ? toDegrees(value).toFixed(6) : value.toFixed(4);
      }),
    ];
    lines += `${cells.join(',')}\n`;
    if (lines.length > 65_536) {
      yield lines;
      lines = '';
    }
  }
  yield lines;
}
