import {
  crestTop,
  earthworkOn,
  groundWithDesigns as buildIn,
  padTop,
  withLevels,
  type DesignLevels,
  type SlopeSettings,
} from '@pampero/core/designs';
import { unpackLines } from '@pampero/core/lines';
import { packTin, tinFacts, unpackTin, type TinFacts } from '@pampero/core/terrain';
import type { Volume } from '@pampero/core/volumes';
import { displayGrid } from './surface-tasks.js';

export interface DesignedEarthwork {
  readonly tin: Uint8Array;
  readonly grid: Uint8Array;
  readonly origin: readonly [number, number];
  readonly facts: TinFacts;
  readonly volume: Volume;
  readonly slopeLines: number;
  readonly open: number;
}

/** A bank along an open line or a pad within a closed one, with its slopes down and up to the ground. */
export function designEarthwork(task: {
  readonly line: Uint8Array;
  readonly ground: Uint8Array;
  readonly levels: DesignLevels;
  readonly crestWidth: number;
  /** Fall over run. */
  readonly crossfall: number;
  readonly slopes: SlopeSettings;
}): DesignedEarthwork {
  const line = withLevels(unpackLines(task.line)[0]!, task.levels);
  const top = line.isClosed ? padTop(line) : crestTop(line, task.crestWidth, task.crossfall);
  const { tin, ...made } = earthworkOn(unpackTin(task.ground), top, task.slopes);
  return { ...made, tin: packTin(tin), grid: displayGrid(tin), origin: tin.origin, facts: tinFacts(tin) };
}

/** The ground with designs built in, one after the other. */
export function groundWithDesigns(task: {
  readonly ground: Uint8Array;
  readonly designs: readonly Uint8Array[];
}): Pick<DesignedEarthwork, 'tin' | 'grid' | 'origin' | 'facts'> {
  const tin = buildIn(unpackTin(task.ground), task.designs.map(unpackTin));
  return { tin: packTin(tin), grid: displayGrid(tin), origin: tin.origin, facts: tinFacts(tin) };
}
