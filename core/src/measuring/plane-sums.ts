/** z = level + east · x + north · y, by least squares. */
export interface FittedPlane {
  readonly east: number;
  readonly north: number;
  readonly level: number;
  /** Of the points about it, root mean square with three parameters taken off. */
  readonly scatter: number;
}

/** Sums of points that a plane is fitted to. Coordinates are best taken about a place nearby, or their squares lose digits. */
export class PlaneSums {
  count = 0;
  private x = 0;
  private y = 0;
  private z = 0;
  private xx = 0;
  private xy = 0;
  private yy = 0;
  private xz = 0;
  private yz = 0;
  private zz = 0;

  clear(): void {
    this.count = this.x = this.y = this.z = this.xx = this.xy = this.yy = this.xz = this.yz = this.zz = 0;
  }

  add(x: number, y: number, z: number): void {
    this.count++;
    this.x += x;
    this.y += y;
    this.z += z;
    this.xx += x * x;
    this.xy += x * y;
    this.yy += y * y;
    this.xz += x * z;
    this.yz += y * z;
    this.zz += z * z;
  }

  /** @param flattest - the plane is unsure where the points' spread in plan (the determinant of its sums) is no more than this: then there is none */
  plane(flattest: number): FittedPlane | undefined {
    const n = this.count;
    const xx = this.xx - (this.x * this.x) / n;
    const xy = this.xy - (this.x * this.y) / n;
    const yy = this.yy - (this.y * this.y) / n;
    const xz = this.xz - (this.x * this.z) / n;
    const yz = this.yz - (this.y * this.z) / n;
    const spread = xx * yy - xy * xy;
    if (!(spread > flattest)) return undefined;
    const east = (xz * yy - yz * xy) / spread;
    const north = (yz * xx - xz * xy) / spread;
    const left = Math.max(0, this.zz - (this.z * this.z) / n - east * xz - north * yz);
    return {
      east,
      north,
      level: (this.z - east * this.x - north * this.y) / n,
      scatter: Math.sqrt(left / Math.max(1, n - 3)),
    };
  }
}
