import Flatbush from 'flatbush';
import { legCount, type LineShape } from './line-shape.js';
import { distanceToLeg, nearestOnLeg } from './offset-line.js';
import { legEnds, meeting } from './segments.js';

/** What a pen is drawn to, the strongest first: a corner holds before a crossing, a crossing before the side of a line. */
export const MAGNETS = ['corner', 'crossing', 'perpendicular', 'side'] as const;
export type Magnet = (typeof MAGNETS)[number];
export const MAGNET_NAMES: Readonly<Record<Magnet | 'point', string>> = {
  corner: 'corner',
  crossing: 'crossing',
  perpendicular: 'square to the line',
  side: 'on the line',
  point: 'measured point',
};

export interface Snap {
  readonly magnet: Magnet;
  readonly easting: number;
  readonly northing: number;
  /** NaN where the line has none there. */
  readonly elevation: number;
  /** Of the lines given; the corner, or the leg and share where it was met. */
  readonly line: number;
  readonly corner?: number;
  readonly leg: number;
  readonly share: number;
}

/** Legs of many lines, to be asked what lies near a place. Built once; asked in a millisecond among a million legs. */
export class LineIndex {
  private readonly boxes: Flatbush | undefined;
  private readonly lineOf: Uint32Array;
  private readonly legOf: Uint32Array;

  constructor(readonly lines: readonly LineShape[]) {
    const total = lines.reduce((sum, line) => sum + legCount(line), 0);
    this.lineOf = new Uint32Array(total);
    this.legOf = new Uint32Array(total);
    this.boxes = total > 0 ? new Flatbush(total) : undefined;
    let at = 0;
    lines.forEach((line, k) => {
      for (let leg = 0; leg < legCount(line); leg++) {
        const [ae, an, be, bn] = legEnds(line, leg);
        this.lineOf[at] = k;
        this.legOf[at++] = leg;
        this.boxes!.add(Math.min(ae, be), Math.min(an, bn), Math.max(ae, be), Math.max(an, bn));
      }
    });
    this.boxes?.finish();
  }

  /** Legs whose boxes lie within reach of a place, as line and leg, in their order. */
  near(e: number, n: number, reach: number): { readonly line: number; readonly leg: number }[] {
    const found = this.boxes?.search(e - reach, n - reach, e + reach, n + reach) ?? [];
    return found.sort((a, b) => a - b).map((k) => ({ line: this.lineOf[k]!, leg: this.legOf[k]! }));
  }

  /** Lines that touch a box. */
  within(west: number, south: number, east: number, north: number): number[] {
    return [...new Set((this.boxes?.search(west, south, east, north) ?? []).map((k) => this.lineOf[k]!))].sort(
      (a, b) => a - b,
    );
  }

  /**
   * What the pen is drawn to near a place, undefined where nothing is.
   * @param from - where the leg that is drawn begins: its foot on a line is asked for as well
   */
  snap(
    e: number,
    n: number,
    reach: number,
    wanted: ReadonlySet<Magnet>,
    from?: readonly [number, number],
  ): Snap | undefined {
    // More legs than this in reach of a pen tell nothing apart; the nearest are enough.
    const legs = this.near(e, n, reach)
      .map((found) => ({ ...found, distance: distanceToLeg(this.lines[found.line]!, found.leg, e, n) }))
      .filter(({ distance }) => distance <= reach)
      .sort((a, b) => a.distance - b.distance)
      .slice(0, 64);
    const best: Partial<Record<Magnet, { snap: Snap; distance: number }>> = {};
    const offer = (magnet: Magnet, line: number, leg: number, share: number, corner?: number): void => {
      if (!wanted.has(magnet)) return;
      const shape = this.lines[line]!;
      const [ae, an, be, bn] = legEnds(shape, leg);
      const [za, zb] = [shape.elevation[leg]!, shape.elevation[(leg + 1) % shape.easting.length]!];
      const [easting, northing] = [ae + share * (be - ae), an + share * (bn - an)];
      const distance = Math.hypot(easting - e, northing - n);
      if (distance > reach || distance >= (best[magnet]?.distance ?? Infinity)) return;
      const elevation = share === 0 ? za : share === 1 ? zb : za + (zb - za) * share;
      best[magnet] = {
        distance,
        snap: { magnet, easting, northing, elevation, line, leg, share, ...(corner !== undefined && { corner }) },
      };
    };
    legs.forEach(({ line, leg }, k) => {
      const shape = this.lines[line]!;
      offer('corner', line, leg, 0, leg);
      offer('corner', line, leg, 1, (leg + 1) % shape.easting.length);
      offer('side', line, leg, nearestOnLeg(shape, leg, e, n).share);
      if (from) {
        const { share } = nearestOnLeg(shape, leg, ...from);
        if (share > 0 && share < 1) offer('perpendicular', line, leg, share);
      }
      for (let other = k + 1; wanted.has('crossing') && other < legs.length; other++) {
        const share = meeting(legEnds(shape, leg), legEnds(this.lines[legs[other]!.line]!, legs[other]!.leg))?.shareA;
        if (share !== undefined && share > 0 && share < 1) offer('crossing', line, leg, share);
      }
    });
    return MAGNETS.map((magnet) => best[magnet]?.snap).find((snap) => snap !== undefined);
  }
}
