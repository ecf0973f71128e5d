import Ajv2020, { type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

interface Content {
  readonly content?: Readonly<Record<string, { readonly schema: object }>>;
}
interface Operation {
  readonly operationId: string;
  readonly summary: string;
  readonly parameters?: readonly { name: string; in: string; required?: boolean; schema: object }[];
  readonly requestBody?: Content;
  readonly responses: Readonly<Record<string, Content>>;
}
interface OpenApi {
  readonly openapi: string;
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly schemas: Readonly<Record<string, object>> };
}

/** The document as a client reads it, held against what is really sent and answered, by a JSON Schema library. */
let host: TestServer;
let api: OpenApi;
let ajv: Ajv2020;
const schemas = new Map<object, ValidateFunction>();
const seen = new Set<string>();

beforeAll(async () => {
  host = await testServer();
  api = (await host.api.raw('/openapi.json')).json() as unknown as OpenApi;
  ajv = new Ajv2020({ strict: false, allErrors: true });
  addFormats(ajv);
  ajv.addFormat('base64', /^[A-Za-z0-9+/]*={0,2}$/); // RFC 4648, 4
  ajv.addSchema({ $id: 'api', components: api.components });
});
afterAll(() => host.stop());

/** What is wrong with a value by a schema of the document. */
function faults(schema: object, value: unknown): string {
  let check = schemas.get(schema);
  if (!check) {
    // References are within the document.
    const whole = JSON.parse(JSON.stringify(schema).replaceAll('"#/components/', '"api#/components/')) as object;
    schemas.set(schema, (check = ajv.compile(whole)));
  }
  return check(value) ? '' : ajv.errorsText(check.errors);
}

function found(method: string, path: string): { operation: Operation; values: Record<string, string> } {
  for (const [template, methods] of Object.entries(api.paths)) {
    const names = [...template.matchAll(/\{(\w+)\}/g)].map((match) => match[1]!);
    const match = new RegExp(`^${template.replace(/\{\w+\}/g, '([^/]+)')}$`).exec(path);
    const operation = methods[method.toLowerCase()];
    if (match && operation)
      return { operation, values: Object.fromEntries(names.map((name, k) => [name, match[k + 1]!])) };
  }
  throw new Error(`${method} ${path} is not in the document.`);
}

/** Makes a request and holds it and its answer against the document. */
async function ask(method: string, path: string, body?: unknown): Promise<{ status: number; json: unknown }> {
  const url = new URL(`${host.server.url}/api${path}`);
  const { operation, values } = found(method, url.pathname);
  seen.add(operation.operationId);
  for (const { name, in: where, required } of operation.parameters ?? [])
    if (required) expect(where === 'path' ? values[name] : url.searchParams.get(name), `${path}: ${name}`).toBeTruthy();
  const named = new Set((operation.parameters ?? []).map(({ name }) => name));
  for (const name of url.searchParams.keys()) expect(named, `${path}: ${name}`).toContain(name);
  const isBytes = body instanceof Uint8Array;
  const response = await fetch(url, {
    method,
    ...(body !== undefined && {
      body: isBytes ? Buffer.from(body) : JSON.stringify(body),
      headers: { 'content-type': isBytes ? 'application/octet-stream' : 'application/json' },
    }),
  });
  if (response.ok && body !== undefined) {
    const content = operation.requestBody?.content ?? {};
    if (isBytes) expect(Object.keys(content)).toContain('application/octet-stream');
    else expect(faults(content['application/json']!.schema, body), `body of ${path}`).toBe('');
  }
  const status = String(response.status);
  const described = operation.responses[status] ?? operation.responses['default'];
  expect(described, `${status} of ${operation.operationId}`).toBeDefined();
  const type = (response.headers.get('content-type') ?? '').split(';')[0]!;
  const bytes = Buffer.from(await response.arrayBuffer());
  if (bytes.length === 0) return { status: response.status, json: undefined };
  const content = described!.content ?? {};
  if (!type.includes('json')) {
    expect(Object.keys(content).length, `${path} answers ${type}`).toBeGreaterThan(0);
    return { status: response.status, json: undefined };
  }
  const json = JSON.parse(bytes.toString()) as unknown;
  const schema = (content[type] ?? content['application/json'])?.schema;
  // JSON that is read as bytes, such as what a product shows, has no schema here.
  if (schema && (schema as { format?: string }).format !== 'binary')
    expect(faults(schema, json), `answer of ${operation.operationId}`).toBe('');
  return { status: response.status, json };
}

describe('the API’s own description (OpenAPI 3.1.0, JSON Schema 2020-12)', () => {
  let jobId: string;
  let cloudId: number;
  const made: Record<string, number> = {};
  const operate = async (operation: string, parameters: Record<string, unknown>): Promise<number> => {
    const { json } = await ask('POST', `/jobs/${jobId}/operations/${operation}`, parameters);
    const run = await host.api.ended(jobId, json as never);
    expect(run.state, run.outcome).toBe('done');
    return run.productId!;
  };

  test('is a document of that version whose every schema can be read', () => {
    expect(api.openapi).toBe('3.1.0');
    for (const [path, methods] of Object.entries(api.paths))
      for (const operation of Object.values(methods)) {
        expect(operation.summary, path).toMatch(/\.$/);
        const contents = [operation.requestBody, ...Object.values(operation.responses)];
        for (const { schema } of contents.flatMap((content) => Object.values(content?.content ?? {})))
          expect(() => faults(schema, {}), path).not.toThrow();
      }
  });

  test('holds for a job from import to export', async () => {
    jobId = ((await ask('POST', '/jobs', { name: 'By script', epsg: 5347 })).json as { id: string }).id;
    await ask('GET', '/jobs');
    const { json: run } = await ask(
      'POST',
      `/jobs/${jobId}/operations/import-cloud/file?fileName=strip.las&parameters=%7B%7D`,
      await lasBytes(fieldWithShed()),
    );
    cloudId = (await host.api.ended(jobId, run as never)).productId!;
    await ask('GET', `/jobs/${jobId}/runs/${(run as { id: string }).id}`);
    await operate('find-ground', { clouds: [cloudId], cell: '1 m' });
    made['surface'] = await operate('build-surface', { clouds: [cloudId] });
    made['contours'] = await operate('draw-contours', { on: 'surface', surfaceId: made['surface'], interval: 0.25 });
    made['grid'] = await operate('make-grid', { method: 'tin', surfaceId: made['surface'], cell: 1 });
    made['volume'] = await operate('measure-volume', { surfaceId: made['surface'], level: 30 });
    made['class-table'] = await operate('count-classes', { clouds: [cloudId] });
    await ask('GET', `/jobs/${jobId}`);
    await ask('GET', `/jobs/${jobId}/clouds/${cloudId}/nodes`);
    await ask('GET', `/jobs/${jobId}/clouds/${cloudId}/report`);
  });

  test('holds for what leaves, in every form', async () => {
    const { products } = await host.api.read(jobId);
    const { formatsOf } = await import('@pampero/contract');
    for (const product of products)
      for (const { id } of formatsOf(product)) {
        const { status } = await ask('GET', `/jobs/${jobId}/products/${product.id}/file?format=${id}`);
        // There is no picture in the job to lie over the surface.
        expect(status, `${product.kind} as ${id}`).toBe(id === 'glb-picture' ? 422 : 200);
      }
    for (const format of ['las', 'laz', 'csv'])
      await ask('GET', `/jobs/${jobId}/clouds/${cloudId}/points?format=${format}`);
    await ask('GET', `/jobs/${jobId}/file`);
  });

  test('holds for undo, redo, rebuilding and what is asked without changing anything', async () => {
    await ask('POST', `/jobs/${jobId}/undo`);
    await ask('POST', `/jobs/${jobId}/redo`);
    for (const path of ['/operations', '/crs?search=5347', `/jobs/${jobId}/history`]) await ask('GET', path);
    for (const what of ['proposals/find-ground', 'objects', 'suspect-areas', 'control'])
      await ask('GET', `/jobs/${jobId}/clouds/${cloudId}/${what}`);
    await ask('GET', `/jobs/${jobId}/products/${made['surface']}`);
    await ask('GET', `/jobs/${jobId}/products/${made['surface']}/faults`);
    const visible = { hiddenClasses: [], withWithheld: true };
    await ask('POST', `/jobs/${jobId}/selection/count`, {
      selection: [{ how: 'add', shape: { kind: 'all' }, visible }],
    });
    await operate('find-ground', { clouds: [cloudId], tolerance: 0.01 });
    const { json } = await ask('POST', `/jobs/${jobId}/rebuild`);
    for (const run of (json as { runs: never[] }).runs) await host.api.ended(jobId, run);
  });

  test('holds for what is refused: the problem has the shape that is promised (RFC 9457)', async () => {
    const wrong = await ask('POST', `/jobs/${jobId}/operations/find-ground`, { clouds: [cloudId], cell: 'a bit' });
    expect(wrong.status).toBe(400);
    const missing = await ask('GET', '/jobs/none-of-that-name-0000');
    expect(missing.status).toBe(404);
    const problem = api.components.schemas['Problem']!;
    for (const { json } of [wrong, missing]) {
      expect(faults(problem, json)).toBe('');
      expect(json).toMatchObject({ title: expect.any(String), status: expect.any(Number), detail: expect.any(String) });
    }
  });

  test('does not take what the server would not', () => {
    const schema = api.components.schemas['find-ground']!;
    expect(faults(schema, { clouds: [1] })).toBe('');
    expect(faults(schema, { clouds: [1], toleranse: 1 })).not.toBe('');
    expect(faults(schema, { clouds: 'all' })).not.toBe('');
  });

  test('more than twenty of its endpoints were asked', () => {
    expect(seen.size).toBeGreaterThan(20);
  });
});
