import type { Selection } from '@pampero/core/selection';

type Corners = readonly (readonly [number, number])[];

/** The last outline among the steps of a selection that was drawn in Plan, or the last boundary, in job coordinates. */
export function lastPlanOutline(steps: Selection): Corners | undefined {
  for (const { shape } of [...steps].reverse()) {
    if (shape.kind === 'boundary') return shape.corners;
    if (shape.kind !== 'outline' || (shape.view as { name?: string }).name !== 'plan') continue;
    const { matrix, origin, width, height } = shape.view;
    // Plan's matrix scales and shifts, and nothing more.
    return shape.corners.map(
      ([px, py]) =>
        [
          ((2 * px) / width - 1 - matrix[12]!) / matrix[0]! + origin[0],
          (1 - (2 * py) / height - matrix[13]!) / matrix[5]! + origin[1],
        ] as const,
    );
  }
  return undefined;
}
