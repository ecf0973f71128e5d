import type { CloudNode } from '@pampero/contract';
import type { DrawnCloud } from './drawing-protocol';
import type { Matrix } from './frame';

/** A node with its box in scene coordinates. */
export interface SceneNode extends CloudNode {
  readonly low: readonly [number, number, number];
  readonly high: readonly [number, number, number];
}

/** A cloud in the scene. */
export interface SceneCloud {
  readonly cloud: DrawnCloud;
  readonly nodes: readonly SceneNode[];
}

/**
 * True when any of the box may be in the view: no clip plane has all eight corners behind it.
 * @param isAnyDepth - what lies before the nearest plane or beyond the farthest counts too, but for what is behind the eye
 */
export function isInView(matrix: Matrix, low: readonly number[], high: readonly number[], isAnyDepth = false): boolean {
  const outside = [0, 0, 0, 0, 0, 0];
  for (let corner = 0; corner < 8; corner++) {
    const x = corner & 1 ? high[0]! : low[0]!;
    const y = corner & 2 ? high[1]! : low[1]!;
    const z = corner & 4 ? high[2]! : low[2]!;
    const cx = matrix[0]! * x + matrix[4]! * y + matrix[8]! * z + matrix[12]!;
    const cy = matrix[1]! * x + matrix[5]! * y + matrix[9]! * z + matrix[13]!;
    const cz = matrix[2]! * x + matrix[6]! * y + matrix[10]! * z + matrix[14]!;
    const w = matrix[3]! * x + matrix[7]! * y + matrix[11]! * z + matrix[15]!;
    if (cx < -w) outside[0]!++;
    if (cx > w) outside[1]!++;
    if (cy < -w) outside[2]!++;
    if (cy > w) outside[3]!++;
    if (isAnyDepth ? w <= 0 : cz < -w) outside[4]!++;
    if (!isAnyDepth && cz > w) outside[5]!++;
  }
  return !outside.includes(8);
}

/** Pixels that one job unit has at the nearest part of the box. */
export function pixelsPerUnit(matrix: Matrix, width: number, low: readonly number[], high: readonly number[]): number {
  const perUnit = (Math.hypot(matrix[0]!, matrix[4]!, matrix[8]!) * width) / 2;
  if (matrix[3] === 0 && matrix[7] === 0 && matrix[11] === 0) return perUnit;
  let nearest = Infinity;
  for (let corner = 0; corner < 8; corner++) {
    const x = corner & 1 ? high[0]! : low[0]!;
    const y = corner & 2 ? high[1]! : low[1]!;
    const z = corner & 4 ? high[2]! : low[2]!;
    nearest = Math.min(nearest, matrix[3]! * x + matrix[7]! * y + matrix[11]! * z + matrix[15]!);
  }
  return perUnit / Math.max(nearest, 1e-3);
}

/**
 * The nodes a view needs, coarse to fine: those in view whose parent level leaves its samples more than `target` pixels
 * apart. A level's spacing is that of its sampled nodes; a node that keeps all it was given counts with its level.
 */
export function wantedNodes(nodes: readonly SceneNode[], matrix: Matrix, width: number, target: number): SceneNode[] {
  const spacingOfLevel: number[] = [];
  for (const node of nodes)
    if (node.spacing > 0) spacingOfLevel[node.level] = Math.min(spacingOfLevel[node.level] ?? Infinity, node.spacing);
  return nodes.filter((node) => {
    if (!isInView(matrix, node.low, node.high)) return false;
    if (node.level === 0) return true;
    const parentSpacing = spacingOfLevel[node.level - 1] ?? 0;
    return parentSpacing * pixelsPerUnit(matrix, width, node.low, node.high) > target;
  });
}
