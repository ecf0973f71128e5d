import type { SettingsProposal } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { cloudEvidence } from '../questions/cloud-evidence.js';
import { listClouds } from '../store/cloud-repository.js';
import type { ServerOperation, Surroundings } from './server-operation.js';

type Evidence = Awaited<ReturnType<typeof cloudEvidence>>;
interface Proposed {
  readonly settings: object;
  readonly reasons: readonly string[];
}

/** Proposes settings by looking at a cloud. Of several clouds the largest speaks: one set of settings is for all of them. */
export function proposedBy(
  look: (cloudId: number, surroundings: Surroundings) => Promise<Proposed>,
): NonNullable<ServerOperation['propose']> {
  return async ({ clouds, cloud }, surroundings) => {
    const named = [clouds ?? cloud].flat();
    const chosen = (await listClouds(surroundings.file.read)).filter(({ id }) => named.includes(id));
    const largest = chosen.sort((a, b) => b.pointCount - a.pointCount || a.id - b.id)[0];
    if (!largest) return { parameters: {}, reasons: [] };
    const { settings, reasons } = await look(largest.id, surroundings);
    return { parameters: readable(settings, surroundings.unit), reasons: [...reasons] };
  };
}

/** Lengths are round in metres; in feet to three figures, as one would type them. */
function readable(settings: object, unit: LengthUnit): SettingsProposal['parameters'] {
  const rounded = Object.entries(settings).map(([name, value]: [string, unknown]) => [
    name,
    unit !== 'metre' && typeof value === 'number' ? Number(value.toPrecision(3)) : value,
  ]);
  return Object.fromEntries(rounded) as SettingsProposal['parameters'];
}

/** As {@link proposedBy}, from what a cloud tells of its slopes, noise, strips and density. */
export function proposedFor(
  propose: (evidence: Evidence, unit: LengthUnit) => Proposed,
): NonNullable<ServerOperation['propose']> {
  return proposedBy(async (cloudId, { pool, file, unit }) =>
    propose(await cloudEvidence(pool, file, cloudId, unit), unit),
  );
}
