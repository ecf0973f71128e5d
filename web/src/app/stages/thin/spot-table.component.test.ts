// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import type { SpotPoint, Workbench } from '@pampero/contract';
import { afterAll, beforeAll, beforeEach, describe, expect, test, vi } from 'vitest';
import type { JobStore } from '../../state/job-store';
import { workbench, type PretendServer } from '../../stores.fixture';
import { ViewCameras } from '../../viewer/view-cameras';
import { SpotTableComponent } from './spot-table.component';

const point = (number: string, northing: number, facts: Partial<SpotPoint> = {}): SpotPoint =>
  ({ number, code: 'SPOT', easting: 500, northing, elevation: 31.4, ...facts }) as SpotPoint;
const bytes = (of: unknown): ArrayBuffer => new TextEncoder().encode(JSON.stringify(of)).buffer;
const list = (id: number): Workbench['products'] =>
  [{ id, kind: 'spots', name: 'Points of the bank', facts: { decimals: 2 } }] as never;
const cameras = { lookClose: vi.fn() };
let screen: Screen<SpotTableComponent>;
let server: PretendServer;
let job: JobStore;

// The page without a browser has no heights, and a list that scrolls shows what there is room for.
const height = vi.spyOn(HTMLElement.prototype, 'clientHeight', 'get');
beforeAll(() => void height.mockReturnValue(280));
afterAll(() => height.mockRestore());

const read = async (id: number, points: readonly SpotPoint[]): Promise<void> => {
  job.workbench.set(workbench({ products: list(id) }));
  await screen.settled();
  server.answer('showProduct', bytes(points));
  await screen.settled();
  await screen.settled();
};
const numbers = (): string[] =>
  screen.all<HTMLInputElement>('[aria-label^="Number of point"]').map(({ value }) => value);
const numberOf = (name: string): HTMLInputElement => screen.one(`[aria-label="Number of point ${name}"]`);

beforeEach(async () => {
  vi.clearAllMocks();
  ({ server, job } = openJob({}, { providers: [{ provide: ViewCameras, useValue: cameras }] }));
  screen = await Screen.of(SpotTableComponent);
  await read(7, [point('1', 100), point('2', 110, { code: 'BANK' }), point('3', 120)]);
});

describe('numbered points', () => {
  test('stand in rows with the decimals of their list; without a list there is nothing', async () => {
    expect(numbers()).toEqual(['1', '2', '3']);
    expect(screen.text).toContain('Points of the bank');
    expect(screen.text).toContain('3 of 3');
    expect(screen.texts('.row:not(.title) span.num').slice(0, 3)).toEqual(['100.00', '500.00', '31.40']);
    job.workbench.set(workbench({}));
    await screen.settled();
    expect(screen.text).toBe('');
  });

  test('are searched by number and code, whatever the case', async () => {
    await screen.type('[aria-label="Search numbers and codes"]', 'bank');
    expect(numbers()).toEqual(['2']);
    expect(screen.text).toContain('1 of 3');
  });

  test('what is typed, and the row it is typed into, stay while the job is read anew', async () => {
    const input = numberOf('1');
    input.value = 'BM1'; // typed, and not yet left
    job.workbench.set(workbench({ products: list(7) }));
    await screen.settled();
    expect(numberOf('1')).toBe(input);
    expect(input.value).toBe('BM1');
  });

  test('a change leaves the other rows the elements they were, so that Tab goes on from them', async () => {
    const code = screen.one('[aria-label="Code of point 1"]');
    await screen.type(numberOf('1'), 'BM1');
    expect(screen.one('[aria-label="Code of point BM1"]')).toBe(code);
  });

  test('changes are counted, sent for the list they were made in, and gone with the new one', async () => {
    await screen.type(numberOf('1'), 'BM1');
    await screen.type('[aria-label="Code of point 2"]', 'TOE');
    await screen.press('Leave point out: 2');
    await screen.press('Leave point out: 3');
    await screen.press('Take point in again: 3');
    expect(screen.one('keep-spots').textContent?.trim()).toBe('Keep 3 changes');
    await screen.press(screen.one('keep-spots'));
    expect(server.made('startOperation').at(-1)!.given.body).toEqual({
      spotsId: 7,
      changes: [
        { index: 0, number: 'BM1' },
        { index: 1, code: 'TOE', isLeftOut: true },
        { index: 2, isLeftOut: false },
      ],
    });
    await read(8, [point('BM1', 100), point('3', 120)]);
    expect(numbers()).toEqual(['BM1', '3']);
    expect(screen.has('keep-spots')).toBe(false);
  });

  test('changes are forgotten when asked', async () => {
    await screen.type(numberOf('1'), 'BM1');
    await screen.press('Forget them');
    expect(numbers()).toEqual(['1', '2', '3']);
    expect(screen.has('keep-spots')).toBe(false);
  });

  test('the view goes to the point whose row is entered', () => {
    numberOf('2').dispatchEvent(new Event('focus'));
    expect(cameras.lookClose).toHaveBeenCalledWith([500, 110, 31.4], 40);
  });

  test('a list that cannot be read is told, in the words of the server', async () => {
    job.workbench.set(workbench({ products: list(9) }));
    await screen.settled();
    server.refuse('showProduct', 'The file of this list is not there any more.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe(
      'The numbered points could not be read. The file of this list is not there any more.',
    );
    await read(10, [point('1', 100)]);
    expect(screen.all('[role="alert"]')).toEqual([]);
  });
});
