import { metresPer } from '@pampero/core/geodesy';
import { cloudEvidence } from '../../questions/cloud-evidence.js';
import { listClouds } from '../../store/cloud-repository.js';
import type { ServerOperation } from '../server-operation.js';

type Evidence = Awaited<ReturnType<typeof cloudEvidence>>;

/** Proposes settings from what a cloud tells. Of several clouds the largest speaks: one set of settings is for all of them. */
export function proposedFor(
  propose: (
    evidence: Evidence,
    metresPerUnit: number,
  ) => { readonly settings: object; readonly reasons: readonly string[] },
): NonNullable<ServerOperation['propose']> {
  return async ({ clouds }, { pool, file, unit }) => {
    const chosen = (await listClouds(file.read)).filter(({ id }) => [clouds].flat().includes(id));
    const largest = chosen.sort((a, b) => b.pointCount - a.pointCount || a.id - b.id)[0];
    if (!largest) return { parameters: {}, reasons: [] };
    const { settings, reasons } = propose(await cloudEvidence(pool, file, largest.id, unit), metresPer(unit));
    return { parameters: { ...settings } as Record<string, string | number | boolean>, reasons: [...reasons] };
  };
}
