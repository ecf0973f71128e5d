import type { Box, Building, Rod, Scene, Tree } from './scene.js';

export type Solid = { kind: 'building'; item: Building } | { kind: 'box'; item: Box };
export interface Near {
  readonly solids: Solid[];
  readonly trees: Tree[];
  readonly rods: Rod[];
}
const NOTHING: Near = { solids: [], trees: [], rods: [] };

/** Which objects a beam may meet: a grid over the scene, each object entered where its shadow at the steepest angle can fall. */
export class SceneIndex {
  private readonly cell = 4;
  private readonly columns: number;
  private readonly cells = new Map<number, Near>();

  constructor(
    { objects, extent, lowestGround, ground }: Scene,
    private readonly halfAngle: number,
  ) {
    this.columns = Math.ceil((extent.east + 80) / this.cell);
    for (const item of objects.buildings)
      this.enter(item.east, item.north, Math.hypot(item.halfLength, item.halfWidth), item.ridge - item.floor, (n) =>
        n.solids.push({ kind: 'building', item }),
      );
    for (const item of objects.boxes) {
      // A deck throws its shadow on the land far under it.
      const height = item.top - Math.min(item.foot, ground(item.east, item.north)) + 0.6;
      this.enter(item.east, item.north, Math.hypot(item.halfLength, item.halfWidth), height, (n) =>
        n.solids.push({ kind: 'box', item }),
      );
    }
    for (const item of objects.trees)
      this.enter(item.east, item.north, item.radius, item.middle + item.halfHeight - item.foot, (n) =>
        n.trees.push(item),
      );
    for (const item of objects.rods) {
      const [a, b] = [item.from, item.to];
      this.enter(
        (a[0] + b[0]) / 2,
        (a[1] + b[1]) / 2,
        Math.hypot(b[0] - a[0], b[1] - a[1]) / 2 + 0.3,
        Math.max(a[2], b[2]) - lowestGround,
        (n) => n.rods.push(item),
      );
    }
  }

  private enter(east: number, north: number, radius: number, height: number, add: (near: Near) => void): void {
    // The beam's end on the ground lies beyond the object by at most its height times the tangent of the widest angle.
    const reach = radius + height * Math.tan(((this.halfAngle + 1) * Math.PI) / 180) + this.cell + 3;
    for (let row = this.index(north - reach); row <= this.index(north + reach); row++)
      for (let column = this.index(east - reach); column <= this.index(east + reach); column++) {
        const key = row * this.columns + column;
        let near = this.cells.get(key);
        if (!near) this.cells.set(key, (near = { solids: [], trees: [], rods: [] }));
        add(near);
      }
  }

  private index(metres: number): number {
    return Math.max(0, Math.floor((metres + 40) / this.cell));
  }

  along(from: readonly [number, number, number], ray: readonly [number, number, number], end: number): Near {
    return (
      this.cells.get(this.index(from[1] + ray[1] * end) * this.columns + this.index(from[0] + ray[0] * end)) ?? NOTHING
    );
  }
}
