// @vitest-environment jsdom
import { openViews, ORIGIN, type OpenedViews } from './views.fixture';
import { TestBed } from '@angular/core/testing';
import { beforeEach, expect, test } from 'vitest';
import { layerKey, LayerStore } from '../state/layer-store';
import { LookStore } from '../state/look-store';
import { surface } from '../stores.fixture';
import { FlightFeed } from './flight-feed';
import { SceneLines } from './scene-lines';

let opened: OpenedViews;
let drawn: Map<string, { colour: string; positions: Float32Array }>;
let changes: number;
const [E0, N0, Z0] = ORIGIN;
const file = {
  features: [
    {
      geometry: { coordinates: [[E0, N0, Z0 + 100], [E0 + 10, N0, Z0 + 101], [E0 + 20, N0 + 5, Z0 + 102]] },
      properties: { time: [0, 1, 2], accuracy: [0.01, 0.02, 0.05] },
    },
  ],
}; // prettier-ignore
const bytes = (of: unknown): ArrayBuffer => new TextEncoder().encode(JSON.stringify(of)).buffer as ArrayBuffer;
const trajectory = (id: number) => surface(id, { kind: 'trajectory', facts: { clock: 'adjusted', hasAccuracies: true } } as never); // prettier-ignore

beforeEach(async () => {
  opened = openViews({ products: [trajectory(4), surface(9, { kind: 'photographs' } as never)] }, { providers: [SceneLines, FlightFeed] }); // prettier-ignore
  drawn = new Map();
  changes = 0;
  TestBed.inject(SceneLines).changes$.subscribe(({ key, layer }) => {
    changes++;
    if (layer) drawn.set(key, layer as never);
    else drawn.delete(key);
  });
  TestBed.inject(FlightFeed);
  await opened.settled();
});
const come = async (of: unknown = file): Promise<void> => {
  opened.server.answer('showProduct', bytes(of));
  await opened.settled();
  await opened.settled();
};

test('a trajectory is a line about the scene’s origin; places of photographs are one too', async () => {
  expect(opened.server.made('showProduct')[0]!.given.params).toEqual({ jobId: 'job', productId: 4 });
  await come();
  await come({ features: [{ geometry: { coordinates: [[E0, N0, Z0], [E0, N0 + 1, Z0]] } }] }); // prettier-ignore
  const keys = [...drawn.keys()];
  expect(keys.map((key) => key.split('-')[1])).toEqual(['4', '9']);
  expect([...drawn.get(keys[0]!)!.positions]).toEqual([0, 0, 100, 10, 0, 101, 10, 0, 101, 20, 5, 102]);
  expect([...drawn.get(keys[1]!)!.positions]).toEqual([0, 0, 0, 0, 1, 0]);
});

test('each file is asked for once, however it is coloured; the parts of before go', async () => {
  await come();
  await come({ features: [] });
  const before = [...drawn.keys()];
  TestBed.inject(LookStore).flightColour.set('time');
  await opened.settled();
  await opened.settled();
  expect(opened.server.made('showProduct')).toHaveLength(2);
  expect([...drawn.keys()].some((key) => before.includes(key))).toBe(false);
  expect(drawn.size).toBe(2); // a leg each, in colours of their own
  expect(new Set([...drawn.values()].map(({ colour }) => colour)).size).toBe(2);
});

test('what is drawn as it should be is not drawn again', async () => {
  await come();
  await come({ features: [] });
  const before = changes;
  opened.job.workbench.update((bench) => ({ ...bench! }));
  await opened.settled();
  await opened.settled();
  expect(changes).toBe(before);
  opened.cameras.origin.set([E0 - 10, N0, Z0]);
  await opened.settled();
  await opened.settled();
  expect([...drawn.values()][0]!.positions[0]).toBe(10);
});

test('one that is hidden is drawn no more, and back without asking the server', async () => {
  await come();
  await come({ features: [] });
  const layers = TestBed.inject(LayerStore);
  layers.setShown(layerKey('trajectory', 4), false);
  await opened.settled();
  await opened.settled();
  expect(drawn.size).toBe(0);
  layers.setShown(layerKey('trajectory', 4), true);
  await opened.settled();
  await opened.settled();
  expect([drawn.size, opened.server.made('showProduct').length]).toEqual([1, 2]);
});

test('a file that did not come is asked for again when it is wanted next', async () => {
  opened.server.refuse('showProduct', 'The trajectory is gone.');
  await opened.settled();
  await come({ features: [] });
  expect(drawn.size).toBe(0);
  TestBed.inject(LookStore).flightColour.set('time');
  await opened.settled();
  await come();
  expect(drawn.size).toBe(2);
});
