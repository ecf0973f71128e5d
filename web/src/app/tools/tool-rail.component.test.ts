// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { TestBed } from '@angular/core/testing';
import { stageIds } from '@pampero/contract';
import { beforeEach, expect, test } from 'vitest';
import { ViewStore } from '../state/view-store';
import { ToolRailComponent } from './tool-rail.component';
import { TOOLS } from './tools';

let screen: Screen<ToolRailComponent>;
let views: ViewStore;
beforeEach(async () => {
  openJob();
  views = TestBed.inject(ViewStore);
  screen = await Screen.of(ToolRailComponent, { stage: 'intake' });
});
const shown = (): string[] => screen.all('button').map(({ dataset }) => dataset['testid']!.replace('tool-', ''));

test.each(stageIds)('%s has the tools of every stage and its own, in one order', async (stage) => {
  await screen.set('stage', stage);
  expect(shown()).toEqual(TOOLS.filter((tool) => tool.stage === undefined || tool.stage === stage).map(({ id }) => id));
});

test('a tool is taken by a click and laid down by another; it says that it is in hand', async () => {
  await screen.press('Outline');
  expect([views.tool(), screen.one('tool-outline').getAttribute('aria-pressed')]).toEqual(['outline', 'true']);
  await screen.press('Outline');
  expect([views.tool(), screen.one('tool-look').getAttribute('aria-pressed')]).toEqual(['look', 'true']);
});

test('one that is in hand stays among them when another stage is opened', async () => {
  const own = TOOLS.find(({ stage }) => stage === 'align')!;
  expect(shown()).not.toContain(own.id);
  views.takeTool(own.id);
  await screen.settled();
  expect(shown()).toContain(own.id);
});

test('every tool has a name, a picture and a key of its own', () => {
  expect(new Set(TOOLS.map(({ key }) => key)).size).toBe(TOOLS.length);
  expect(new Set(TOOLS.map(({ name }) => name)).size).toBe(TOOLS.length);
  for (const { name, icon, views: where } of TOOLS) expect([name, icon, where.length > 0]).toEqual([expect.stringMatching(/^[A-Z]/), expect.any(String), true]); // prettier-ignore
});
