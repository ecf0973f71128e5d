import { z } from 'zod';
import { meta, one } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const judgeProposals = {
  id: 'judge-proposals',
  stage: 'lines',
  title: 'Judge proposed lines',
  does: 'Makes lines of the proposals that are accepted, and sets those aside that are refused.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      proposalsId: one('proposals', { label: 'Proposals', help: 'The set that is worked through.' }),
      accept: z
        .array(z.int().min(0))
        .default([])
        .meta(meta({ label: 'Accepted', help: 'Numbers of the proposals that become lines.', isHidden: true })),
      refuse: z
        .array(z.int().min(0))
        .default([])
        .meta(meta({ label: 'Refused', help: 'Numbers of the proposals that are none.', isHidden: true })),
    }),
} as const satisfies OperationDescription;
export type JudgeProposalsParameters = z.output<ReturnType<typeof judgeProposals.parameters>>;
