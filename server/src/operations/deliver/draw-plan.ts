import { drawPlan, type DrawPlanParameters } from '@pampero/contract';
import { formatCounted } from '@pampero/core/wording';
import { landOf, readPlanContent } from '../../plans/plan-content.js';
import { layOutPlan } from '../../plans/plan-layout.js';
import type { RunWork } from '../../runs/run-service.js';
import { storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Lays a plan out; its sheets are drawn when it leaves, from what it was laid out for. */
function work(parameters: DrawPlanParameters, { job: facts, unit, replaces }: Surroundings): RunWork {
  return async ({ job, report }) => {
    report(0.1, 'Reading what is drawn');
    const content = await readPlanContent(job.read, facts, parameters);
    const { scale, sheets } = layOutPlan(parameters, landOf(content), unit);
    const paper = `${parameters.paper} ${parameters.orientation}`;
    return {
      outcome: `1 : ${scale} on ${formatCounted(sheets.length, 'sheet')} of ${paper}`,
      figures: [
        { label: 'Scale', value: `1 : ${scale}`, quantity: 'text' },
        { label: 'Sheets', value: sheets.length, quantity: 'count' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'plan',
          name: parameters.name ?? (parameters.title || `Plan 1 : ${scale}`),
          operation: drawPlan.id,
          parameters,
          facts: { scale, paper, sheets: sheets.length },
          blobs: {},
          replaces,
        }),
    };
  };
}

export const operation = serverOperation(drawPlan, work);
