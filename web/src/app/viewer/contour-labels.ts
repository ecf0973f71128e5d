import { Injectable, signal } from '@angular/core';
import { contourLabels, decimalsOf, type ContourSet } from '@pampero/core/contours';

/** An elevation written on a contour, in full coordinates. */
export interface ContourLabelMark {
  readonly easting: number;
  readonly northing: number;
  readonly elevation: number;
  readonly degrees: number;
  readonly text: string;
  /** Job units. */
  readonly height: number;
}

/** The labels of the contours that are shown, for the overlay of Plan. */
@Injectable()
export class ContourLabels {
  private readonly bySet = signal<ReadonlyMap<number, readonly ContourLabelMark[]>>(new Map());
  readonly all = this.bySet.asReadonly();
  /** Contours that are tried: segments about the scene’s origin. */
  readonly tried = signal<{ readonly index: Float32Array; readonly between: Float32Array } | undefined>(undefined);

  /** Puts labels on a set as its parameters ask. */
  show(id: number, set: ContourSet, parameters: Readonly<Record<string, unknown>>): void {
    const textHeight = Number(parameters['labelHeight'] ?? 0);
    const spacing = Number(parameters['labelSpacing'] ?? 0);
    const reading = parameters['labelReading'] === 'uphill' ? 'uphill' : 'from-below';
    if (!(textHeight > 0) || !(spacing > 0)) return;
    const decimals = decimalsOf(Number(parameters['interval']));
    const labels = contourLabels(set, { textHeight, spacing, decimals, reading }).map(
      ({ easting, northing, level, degrees }): ContourLabelMark => ({
        easting: easting + set.origin[0],
        northing: northing + set.origin[1],
        elevation: level,
        degrees,
        text: level.toFixed(decimals),
        height: textHeight,
      }),
    );
    this.bySet.update((sets) => new Map(sets).set(id, labels));
  }

  drop(id: number): void {
    this.bySet.update((sets) => new Map([...sets].filter(([key]) => key !== id)));
  }
}
