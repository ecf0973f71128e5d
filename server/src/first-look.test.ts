import { bufferSink } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

let host: TestServer;
beforeAll(async () => {
  host = await testServer();
});
afterAll(() => host.stop());

/** The field flown twice, the second strip higher by so many millimetres; and what is said of it once it is in. */
async function findingsOf(raised: number): Promise<string[]> {
  const points = fieldWithShed();
  for (let i = 0; i < points.count; i++) if (points.pointSourceId[i] === 2) points.z[i]! += raised;
  const sink = bufferSink();
  await writeLas(sink, [points], { version: '1.4', pointFormat: 6, quantisation: QUANTISATION });
  const { id } = await host.api.newJob('Strips');
  expect((await host.api.import(id, sink.bytes())).state).toBe('done');
  const cloudId = (await host.api.read(id)).clouds[0]!.id;
  const { findings } = await host.api.call('readCloudReport', `/jobs/${id}/clouds/${cloudId}/report`);
  return findings.filter(({ level }) => level === 'warning').map(({ message }) => message);
}

describe('the first look at a cloud', () => {
  test('holds strip against strip and says how far they lie apart, before ground is looked for', async () => {
    expect((await findingsOf(100)).join()).toMatch(/Strips lie 10 cm apart .* in Align/);
    expect((await findingsOf(0)).join()).not.toMatch(/Strips/);
  });
});
