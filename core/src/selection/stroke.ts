import { PamperoError } from '../task/index.js';
import type { BoxRelation, Place } from './outline.js';

/**
 * A brush stroke: all that lies within `radius` of a path. Pieces of the path are kept by squares of the radius, so that a
 * point meets those near it only.
 */
export class Stroke {
  private readonly squares = new Map<number, number[]>();
  private readonly left: number;
  private readonly top: number;
  private readonly right: number;
  private readonly bottom: number;
  private readonly columns: number;

  /** @throws PamperoError `stroke-wrong` for an empty path, a radius of nothing, or places that are none */
  constructor(
    readonly path: readonly Place[],
    readonly radius: number,
  ) {
    if (path.length === 0 || !(radius > 0) || !path.flat().every(Number.isFinite))
      throw new PamperoError('stroke-wrong', {
        what: 'The brush stroke touches nothing.',
        fix: 'Draw it again, with a brush wider than nothing.',
      });
    const xs = path.map(([x]) => x);
    const ys = path.map(([, y]) => y);
    this.left = Math.min(...xs) - radius;
    this.top = Math.min(...ys) - radius;
    this.right = Math.max(...xs) + radius;
    this.bottom = Math.max(...ys) + radius;
    this.columns = Math.floor((this.right - this.left) / radius) + 1;
    const pieces = Math.max(1, path.length - 1);
    for (let i = 0; i < pieces; i++) {
      const [ax, ay] = path[i]!;
      const [bx, by] = path[Math.min(i + 1, path.length - 1)]!;
      for (
        let column = this.column(Math.min(ax, bx) - radius);
        column <= this.column(Math.max(ax, bx) + radius);
        column++
      )
        for (let row = this.row(Math.min(ay, by) - radius); row <= this.row(Math.max(ay, by) + radius); row++) {
          const key = row * this.columns + column;
          const list = this.squares.get(key);
          if (list) list.push(i);
          else this.squares.set(key, [i]);
        }
    }
  }

  contains(x: number, y: number): boolean {
    if (x < this.left || x > this.right || y < this.top || y > this.bottom) return false;
    const pieces = this.squares.get(this.row(y) * this.columns + this.column(x));
    if (!pieces) return false;
    const limit = this.radius * this.radius;
    return pieces.some((i) => {
      const a = this.path[i]!;
      const b = this.path[Math.min(i + 1, this.path.length - 1)]!;
      return squaredDistance(x, y, a, b) <= limit;
    });
  }

  /** How a box lies to the stroke; "inside" is never claimed. */
  relationOf(left: number, top: number, right: number, bottom: number): BoxRelation {
    return left > this.right || right < this.left || top > this.bottom || bottom < this.top ? 'outside' : 'crossing';
  }

  private column(x: number): number {
    return Math.max(0, Math.floor((x - this.left) / this.radius));
  }

  private row(y: number): number {
    return Math.max(0, Math.floor((y - this.top) / this.radius));
  }
}

/** Squared distance of a place from the piece of a line between two others. */
export function squaredDistance(x: number, y: number, [ax, ay]: Place, [bx, by]: Place): number {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const t = length === 0 ? 0 : Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / length));
  return (x - ax - t * dx) ** 2 + (y - ay - t * dy) ** 2;
}
