import { distort, widestAngle, type Camera } from './camera.js';
import type { Pose } from './pose.js';

export interface Box {
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

/** Brings places into a photograph: the collinearity equations, then the lens. */
export class Projector {
  private readonly bent = new Float64Array(2);
  private readonly widest: number;
  private readonly square: number;
  /** East, north and up of the camera, then its axes: in one piece, since every point is held against them. */
  private readonly from: Float64Array;

  constructor(
    readonly camera: Camera,
    readonly pose: Pose,
  ) {
    this.widest = widestAngle(camera);
    this.square = this.widest * this.widest;
    this.from = Float64Array.of(pose.east, pose.north, pose.up, ...pose.axes);
  }

  /**
   * Writes column, row and the distance along the axis of a place into `out`.
   * @returns false where the place is not in the picture
   */
  see(e: number, n: number, z: number, out: Float64Array): boolean {
    const { from, camera } = this;
    const de = e - from[0]!;
    const dn = n - from[1]!;
    const dz = z - from[2]!;
    const along = from[9]! * de + from[10]! * dn + from[11]! * dz;
    if (!(along > 0)) return false;
    const right = from[3]! * de + from[4]! * dn + from[5]! * dz;
    const down = from[6]! * de + from[7]! * dn + from[8]! * dz;
    if (right * right + down * down > this.square * along * along) return false;
    distort(camera, right / along, down / along, this.bent);
    const column = camera.principalColumn + camera.focal * this.bent[0]!;
    const row = camera.principalRow + camera.focal * this.bent[1]!;
    out[0] = column;
    out[1] = row;
    out[2] = along;
    return column >= 0 && row >= 0 && column < camera.columns && row < camera.rows;
  }

  /** Whether anything within `radius` of a place may be in the picture. */
  maySee(e: number, n: number, z: number, radius: number): boolean {
    const { axes, east, north, up } = this.pose;
    const [de, dn, dz] = [e - east, n - north, z - up];
    const away = Math.hypot(de, dn, dz);
    if (away <= radius) return true;
    const along = axes[6]! * de + axes[7]! * dn + axes[8]! * dz;
    const off = Math.acos(Math.max(-1, Math.min(1, along / away)));
    return off <= Math.atan(this.widest) + Math.asin(radius / away);
  }

  /**
   * Columns and rows, first and last, between which all of a box of land lies, as far as it is in the picture; undefined where none of
   * it is.
   */
  window({ min, max }: Box): { readonly columns: [number, number]; readonly rows: [number, number] } | undefined {
    const { camera, pose, widest, bent } = this;
    const { axes } = pose;
    let [c0, c1, r0, r1] = [Infinity, -Infinity, Infinity, -Infinity];
    for (let corner = 0; corner < 8; corner++) {
      const d = [
        (corner & 1 ? max[0] : min[0]) - pose.east,
        (corner & 2 ? max[1] : min[1]) - pose.north,
        (corner & 4 ? max[2] : min[2]) - pose.up,
      ] as const;
      const [right, down, along] = [0, 3, 6].map((k) => axes[k]! * d[0] + axes[k + 1]! * d[1] + axes[k + 2]! * d[2]);
      // Behind the camera, or wide of it: the box may reach over all of the picture.
      if (!(along! > 0)) return { columns: [0, camera.columns], rows: [0, camera.rows] };
      const r = Math.hypot(right!, down!) / along!;
      const into = r > widest ? widest / r : 1;
      distort(camera, (into * right!) / along!, (into * down!) / along!, bent);
      const [column, row] = [
        camera.principalColumn + camera.focal * bent[0]!,
        camera.principalRow + camera.focal * bent[1]!,
      ];
      [c0, c1, r0, r1] = [Math.min(c0, column), Math.max(c1, column), Math.min(r0, row), Math.max(r1, row)];
    }
    // Straight edges of a box are bent by the lens.
    const margin = 2 + 0.05 * Math.max(c1 - c0, r1 - r0);
    const columns: [number, number] = [Math.max(0, c0 - margin), Math.min(camera.columns, c1 + margin)];
    const rows: [number, number] = [Math.max(0, r0 - margin), Math.min(camera.rows, r1 + margin)];
    return columns[0] < columns[1] && rows[0] < rows[1] ? { columns, rows } : undefined;
  }
}
