import { Corrector, NO_STRIP, stripsOfPoints, type StripSection } from '@pampero/core/strips';
import { positionsOf } from './node-columns.js';
import { attributesOf, finderOf, takesPart, type FlightCorrection, type StripCloud } from './strip-points.js';

export interface StripSectionTask extends StripCloud, FlightCorrection {
  /** The line of the section, and how far points may lie to either side. */
  readonly a: readonly [number, number];
  readonly b: readonly [number, number];
  readonly halfDepth: number;
  /** Of points that lie on the section one in so many is told, by their place in the node. */
  readonly stride: number;
}

/** What of some nodes lies on a section, before or after the correction. */
export function sectionOfStrips(task: StripSectionTask): StripSection {
  const { a, b, halfDepth, stride } = task;
  const { scale, offset } = task.quantisation;
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const [ue, un] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  const corrector = new Corrector(task.correction, finderOf(task));
  const found: number[] = [];
  const isOn = (x: number, y: number): number => {
    const along = (x - a[0]) * ue + (y - a[1]) * un;
    const aside = (y - a[1]) * ue - (x - a[0]) * un;
    return along >= 0 && along <= length && Math.abs(aside) <= halfDepth ? along : NaN;
  };
  for (const node of task.nodes) {
    const places = positionsOf(node);
    const { pointSourceId, gpsTime } = attributesOf(task, node);
    const strips = stripsOfPoints(task.rule, { pointSourceId, gpsTime });
    for (let i = 0; i < node.count; i += stride) {
      if (strips[i] === NO_STRIP || !takesPart(node, i)) continue;
      const x = places.x[i]! * scale[0] + offset[0];
      const y = places.y[i]! * scale[1] + offset[1];
      // What a correction moves onto the section lies near it.
      if (Math.abs((y - a[1]) * ue - (x - a[0]) * un) > 3 * halfDepth) continue;
      const z = places.z[i]! * scale[2] + offset[2];
      const time = (gpsTime ? gpsTime[i]! : 0) + task.timeShift;
      const along = isOn(x, y);
      const isMoved = corrector.correct(x, y, z, time, strips[i]!);
      const alongAfter = isMoved ? isOn(corrector.point[0]!, corrector.point[1]!) : along;
      if (Number.isNaN(along) && Number.isNaN(alongAfter)) continue;
      found.push(along, z, alongAfter, isMoved ? corrector.point[2]! : z, strips[i]!);
    }
  }
  const count = found.length / 5;
  const column = <T extends Float32Array | Float64Array | Uint16Array>(out: T, k: number): T => {
    for (let i = 0; i < count; i++) out[i] = found[5 * i + k]!;
    return out;
  };
  return {
    along: column(new Float32Array(count), 0),
    elevation: column(new Float64Array(count), 1),
    alongAfter: column(new Float32Array(count), 2),
    elevationAfter: column(new Float64Array(count), 3),
    strip: column(new Uint16Array(count), 4),
  };
}
