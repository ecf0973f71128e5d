import { expect, test } from 'vitest';
import { stageMarks } from './stage-marks';

const step = (stage: 'terrain' | 'clean', state: 'done' | 'undone' | 'failed') => ({ stage, state }) as const;

test('a stage is begun by what was done in it, not by what failed or was taken back', () => {
  const marks = stageMarks([step('terrain', 'done'), step('clean', 'undone'), step('clean', 'failed')], []);
  expect([marks.terrain, marks.clean, marks.deliver]).toEqual(['solid', 'hollow', 'hollow']);
});

test('one whose own products are stale is half done', () => {
  const surface = { operation: 'build-surface', isStale: true } as const;
  expect(stageMarks([step('terrain', 'done')], [surface]).terrain).toBe('half');
  expect(stageMarks([step('terrain', 'done')], [{ ...surface, isStale: false }]).terrain).toBe('solid');
  // Not begun counts more: the step was taken back, and its product with it.
  expect(stageMarks([step('terrain', 'undone')], [surface]).terrain).toBe('hollow');
});
