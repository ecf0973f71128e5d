// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { provideRouter } from '@angular/router';
import { stages } from '@pampero/contract';
import { beforeEach, expect, test } from 'vitest';
import { entry, surface } from '../stores.fixture';
import { TraverseComponent } from './traverse.component';

let screen: Screen<TraverseComponent>;
beforeEach(async () => {
  openJob(
    {
      history: {
        entries: [
          entry({ id: 3, stage: 'terrain', operation: 'build-surface' }),
          entry({ id: 2, stage: 'classify', state: 'undone' }),
          entry({ id: 1, stage: 'intake', operation: 'import-cloud' }),
        ],
        undoes: 3,
        redoes: null,
      },
      products: [surface(1, { isStale: true })],
    },
    { providers: [provideRouter([])] },
  );
  screen = await Screen.of(TraverseComponent, { current: 'intake' });
});

test('has every stage in its order, and a way to each', () => {
  expect(screen.texts('a')).toEqual(stages.map(({ name }) => name));
  expect(screen.all<HTMLAnchorElement>('a').map((a) => a.getAttribute('href'))).toEqual(
    stages.map(({ id }) => `/jobs/job/${id}`),
  );
});

test('tells in words where the work stands, for who does not see the marks', async () => {
  const told = (id: string): string | null => screen.one(`stage-${id}`).getAttribute('aria-label');
  expect(told('intake')).toMatch(/, done$/);
  expect(told('classify')).toMatch(/, not begun$/);
  expect(told('terrain')).toMatch(/, stale results$/);
  expect(screen.one('stage-intake').getAttribute('aria-current')).toBe('page');
  await screen.set('current', 'terrain');
  expect(screen.one('stage-intake').hasAttribute('aria-current')).toBe(false);
  expect(screen.one('stage-terrain').getAttribute('aria-current')).toBe('page');
});
