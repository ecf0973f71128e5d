import { stageIds } from '@pampero/contract';
import { expect, test } from 'vitest';
import { TOOL_IDS } from '../state/tool-id';
import { TOOLS, toolFacts } from './tools';

test('every tool is told of once, under a key of its own; those of a stage belong to one there is', () => {
  expect(TOOLS.map(({ id }) => id).sort()).toEqual([...TOOL_IDS].sort());
  expect(new Set(TOOLS.map(({ key }) => key)).size).toBe(TOOLS.length);
  for (const { id, stage } of TOOLS) if (stage !== undefined) expect(stageIds, id).toContain(stage);
  expect(toolFacts('look').stage).toBeUndefined();
});

test('tools that work in few views say where, and what to do with them', () => {
  for (const { id, views, hint } of TOOLS)
    if (views.length < 3 && id !== 'section') expect(hint, id).toMatch(/^(Click|Drag).*\.$/);
});
