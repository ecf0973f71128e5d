import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Models } from './models.js';
import { fieldWithShed, lasBytes, testServer, type TestServer } from '../server.fixture.js';
import { listStoredNodes, readNodeClass, readNodeGeometry, readNodes } from './node-repository.js';

let host: TestServer;
let models: Models;
beforeAll(async () => {
  host = await testServer();
  const { id } = await host.api.newJob('Nodes');
  await host.api.import(id, await lasBytes(fieldWithShed()));
  models = (await host.server.library.file(id)).read;
});
afterAll(() => host.stop());

describe('nodes read many at once', () => {
  test('are those read one by one, in the order asked', async () => {
    const ids = (await listStoredNodes(models, 1)).map(({ id }) => id).reverse();
    const rows = await readNodes(models, ids, 'geometry', 'attributes');
    expect(rows.map(({ nodeId }) => nodeId)).toEqual(ids);
    for (const row of rows) {
      const alone = await readNodeClass(models, row.nodeId);
      expect(row.classification.equals(alone.classification)).toBe(true);
      expect(row.revision).toBe(alone.revision);
      expect(row.geometry.equals(await readNodeGeometry(models, row.nodeId))).toBe(true);
      expect(row.attributes.length).toBeGreaterThan(0);
    }
    expect(await readNodes(models, [])).toEqual([]);
    expect(Object.keys((await readNodes(models, ids.slice(0, 1)))[0]!)).not.toContain('geometry');
  });

  test('one that is not there is named', async () => {
    await expect(readNodes(models, [1, 4711])).rejects.toThrow(/no node 4711/);
  });
});
