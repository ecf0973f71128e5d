import type { DepthFrame, DepthPicture } from './depth-picture.js';
import type { Projector } from './projector.js';

/** Something that tells the colour at pixel coordinates; false where there is none. */
export interface ColourSource {
  sample(column: number, row: number, out: Float64Array): boolean;
}

/** A photograph that points may take their colour from. */
export interface SeeingPhotograph {
  readonly projector: Projector;
  readonly source: ColourSource;
  /** Pixels of the photograph along the side of one of the source. */
  readonly shrunk: number;
  /** What stands before what; left out, nothing does. */
  readonly depth?: DepthPicture | undefined;
  readonly depthCell: DepthFrame['cell'];
  /** What its red, green and blue are multiplied by to go with its neighbours. */
  readonly gains: readonly [number, number, number];
}

/** Photographs that see a point nearly as well as the best one take part, so that no seam shows. */
const NEARLY = 0.85;
/** Towards its corners a photograph counts for less: this much less in them. */
const CORNER = 0.5;
/** What stands upright is seen from the side: a level view counts for so much of one from above. */
const LEVEL = 0.25;
/** Steeper than this a view along the ground is not told apart from what stands beside it. */
const STEEPEST = 4;

/**
 * Tells which photographs see a point, and how well: from near, from above and not at the edge. Nothing may stand between.
 * One object works on many points; what it says of one holds until the next.
 */
export class SeenBest {
  readonly colours: Float64Array;
  /** Of each photograph, how well it sees the point; 0 where it does not. */
  readonly quality: Float64Array;
  private readonly place = new Float64Array(3);
  private readonly rgb = new Float64Array(3);

  constructor(private readonly photographs: readonly SeeingPhotograph[]) {
    this.colours = new Float64Array(3 * photographs.length);
    this.quality = new Float64Array(photographs.length);
  }

  /** Looks at a point with all photographs; answers how many see it. */
  look(e: number, n: number, z: number): number {
    let count = 0;
    for (let k = 0; k < this.photographs.length; k++) {
      this.quality[k] = 0;
      const { projector, depth, depthCell, source, shrunk, gains } = this.photographs[k]!;
      if (!projector.see(e, n, z, this.place)) continue;
      const { camera, pose } = projector;
      const column = this.place[0]!;
      const row = this.place[1]!;
      const along = this.place[2]!;
      const square = (e - pose.east) ** 2 + (n - pose.north) ** 2;
      const over = Math.abs(pose.up - z);
      if (depth) {
        const cell = (depthCell * along) / camera.focal;
        const slant = over > 0 ? Math.min(STEEPEST, Math.sqrt(square) / over) : STEEPEST;
        if (!depth.isSeen(column, row, along, cell * (1.5 + slant))) continue;
      }
      if (!source.sample(column / shrunk, row / shrunk, this.rgb)) continue;
      const aside = Math.abs(column / camera.columns - 0.5);
      const below = Math.abs(row / camera.rows - 0.5);
      const edge = 2 * Math.max(aside, below);
      const away = Math.sqrt(square + over * over);
      const sharp = (camera.focal / away) * Math.max(LEVEL, over / away);
      this.quality[k] = sharp * (1 - (1 - CORNER) * edge ** 4);
      for (let band = 0; band < 3; band++) this.colours[3 * k + band] = this.rgb[band]! * gains[band]!;
      count++;
    }
    return count;
  }

  /** The colour of the point last looked at, 0 to 255 with fractions. */
  mix(out: Float64Array): void {
    const { quality, colours } = this;
    let best = 0;
    for (let k = 0; k < quality.length; k++) if (quality[k]! > best) best = quality[k]!;
    let whole = 0;
    out[0] = out[1] = out[2] = 0;
    for (let k = 0; k < quality.length; k++) {
      const weight = quality[k]! / best - NEARLY;
      if (!(weight > 0)) continue;
      whole += weight;
      for (let band = 0; band < 3; band++) out[band]! += weight * colours[3 * k + band]!;
    }
    for (let band = 0; band < 3; band++) out[band] = Math.min(255, out[band]! / whole);
  }
}
