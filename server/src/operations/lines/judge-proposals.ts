import { judgeProposals, type JudgeProposalsParameters } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { formatCounted } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, storeProduct } from '../../store/product-repository.js';
import { readProposals, writeProposals } from '../../store/proposals.js';
import { serverOperation } from '../server-operation.js';
import { linesOfBreak } from './break-lines.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

function work({ proposalsId, accept, refuse }: JudgeProposalsParameters): RunWork {
  return async ({ job, historyId }) => {
    const set = await readProduct(job.read, proposalsId, 'proposals');
    const proposals = await readProposals(job.read, proposalsId);
    for (const number of [...accept, ...refuse])
      if (proposals[number]?.state !== 'waiting')
        throw new PamperoError('no-proposal', {
          what: `Proposal ${number + 1} does not wait to be judged.`,
          fix: 'Look at the list again: it may have been judged already.',
        });
    const lines = accept.flatMap((number) => linesOfBreak(proposals[number]!, set.facts.kind));
    const made = await sortMadeLines(job.read, { lines });
    const [accepted, refused] = [new Set(accept), new Set(refuse)];
    const judged = proposals.map((proposal, number) =>
      accepted.has(number)
        ? { ...proposal, state: 'accepted' as const }
        : refused.has(number)
          ? { ...proposal, state: 'refused' as const }
          : proposal,
    );
    const waiting = judged.filter(({ state }) => state === 'waiting');
    const facts = {
      ...set.facts,
      accepted: judged.filter(({ state }) => state === 'accepted').length,
      refused: judged.filter(({ state }) => state === 'refused').length,
      length: waiting.reduce((sum, { length }) => sum + length, 0),
    };
    return {
      outcome: `${formatCounted(accept.length, 'proposal')} accepted, ${refuse.length} refused, ${waiting.length} left`,
      figures: lineFigures(made.shapes),
      store: async (models) => {
        const stored = await storeMadeLines(models, historyId, judgeProposals.id, made);
        const next = await storeProduct(models, {
          kind: 'proposals',
          name: set.name,
          operation: set.operation,
          parameters: set.parameters,
          facts,
          blobs: { proposals: writeProposals(judged) },
          replaces: proposalsId,
          inputs: set.inputs,
        });
        return { effects: [...stored.effects, ...next.effects], productId: next.productId };
      },
    };
  };
}

export const operation = serverOperation(judgeProposals, work);
