import { endpoints, type EndpointId } from '@pampero/contract';
import { describe, expect, test } from 'vitest';
import { urlOf } from './urls';

describe('addresses of the server', () => {
  test('every endpoint has one, with all of its parameters in it', () => {
    for (const id of Object.keys(endpoints) as EndpointId[]) {
      const names = [...endpoints[id].path.matchAll(/\{(\w+)\}/g)].map((match) => match[1]!);
      const params = Object.fromEntries(names.map((name, k) => [name, `p${k}`]));
      const url = urlOf(id, { params } as never);
      expect(url).toMatch(/^\/api\//);
      expect(url).not.toMatch(/[{}?]|undefined/);
      for (const name of names) expect(url).toContain(`/${params[name]}`);
    }
  });

  test('names are escaped, lists are joined, what is left out is not sent', () => {
    expect(urlOf('readJob', { params: { jobId: 'a/b c' } })).toBe('/api/jobs/a%2Fb%20c');
    const url = urlOf('exportPoints', {
      params: { jobId: 'j', cloudId: 1 },
      query: { format: 'csv', classes: [2, 9], spacing: undefined },
    } as never);
    expect(url).toBe('/api/jobs/j/clouds/1/points?format=csv&classes=2%2C9');
  });
});
