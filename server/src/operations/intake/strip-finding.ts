import type { CloudReport } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { formatNumber } from '@pampero/core/wording';
import { pointEvidenceOf } from '../../questions/cloud-evidence.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import type { Models } from '../../store/models.js';
import type { TaskPool } from '../../tasks/task-pool.js';

/** Strips that lie apart by less than this, metres, are as good as one. */
const STRIPS_AGREE = 0.02;

/** Strip against strip on smooth land, in words; undefined where they agree or nothing is covered twice. */
export async function stripFinding(
  pool: TaskPool,
  models: Models,
  cloudId: number,
  facts: CloudFacts,
  told: CloudReport,
  unit: LengthUnit,
): Promise<CloudReport['findings'][number] | undefined> {
  const { stripDisagreement } = await pointEvidenceOf(pool, models, cloudId, facts, told, unit);
  if (stripDisagreement === undefined || stripDisagreement < STRIPS_AGREE) return undefined;
  return {
    level: 'warning',
    message: `Strips lie ${formatNumber(stripDisagreement * 100, 0)} cm apart in elevation where they overlap on smooth land. Compare and adjust them in Align before you look for ground.`,
  };
}
