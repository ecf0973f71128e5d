import { z } from 'zod';

export const stageIds = ['intake', 'align', 'clean', 'classify', 'thin', 'lines', 'terrain', 'deliver'] as const;
export const stageSchema = z.enum(stageIds);
export type Stage = z.infer<typeof stageSchema>;

export interface StageFacts {
  readonly id: Stage;
  readonly name: string;
  readonly question: string;
}

/** The work in the order it is done; each stage answers one question. */
export const stages: readonly StageFacts[] = [
  { id: 'intake', name: 'Intake', question: 'Is it the right data, in the right place, in the right units?' },
  {
    id: 'align',
    name: 'Align',
    question: 'Do the strips agree with each other, and with control?',
  },
  {
    id: 'clean',
    name: 'Clean',
    question: 'What is not real?',
  },
  { id: 'classify', name: 'Classify', question: 'What is ground, and what stands on it?' },
  {
    id: 'thin',
    name: 'Thin',
    question: 'How few points say the same?',
  },
  { id: 'lines', name: 'Lines', question: 'Where does the ground break?' },
  { id: 'terrain', name: 'Terrain', question: 'What shape is it, and how sure are we?' },
  { id: 'deliver', name: 'Deliver', question: 'Who needs it, in which form?' },
];
