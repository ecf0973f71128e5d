import { Injectable, signal } from '@angular/core';
import { contourLabels, decimalsOf, type ContourSet } from '@pampero/core/contours';

/** A figure on a contour, in full coordinates. */
export interface ContourFigure {
  readonly easting: number;
  readonly northing: number;
  readonly elevation: number;
  readonly degrees: number;
  readonly text: string;
  /** Job units. */
  readonly height: number;
}

/** The figures of the contours that are shown, for the overlays of Plan. */
@Injectable()
export class ContourFigures {
  private readonly bySet = signal<ReadonlyMap<number, readonly ContourFigure[]>>(new Map());
  readonly all = this.bySet.asReadonly();
  /** Contours that are tried: segments about the scene’s origin. */
  readonly tried = signal<{ readonly index: Float32Array; readonly between: Float32Array } | undefined>(undefined);

  /** Puts figures on a set as its parameters ask. */
  show(id: number, set: ContourSet, parameters: Readonly<Record<string, unknown>>): void {
    const textHeight = Number(parameters['textHeight'] ?? 0);
    const apart = Number(parameters['labelSpacing'] ?? 0);
    if (!(textHeight > 0) || !(apart > 0)) return;
    const decimals = decimalsOf(Number(parameters['interval']));
    const figures = contourLabels(set, { textHeight, apart, decimals }).map(
      ({ easting, northing, level, degrees }): ContourFigure => ({
        easting: easting + set.origin[0],
        northing: northing + set.origin[1],
        elevation: level,
        degrees,
        text: level.toFixed(decimals),
        height: textHeight,
      }),
    );
    this.bySet.update((sets) => new Map(sets).set(id, figures));
  }

  drop(id: number): void {
    this.bySet.update((sets) => new Map([...sets].filter(([key]) => key !== id)));
  }
}
