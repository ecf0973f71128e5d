// @vitest-environment jsdom
import '../test-bed.fixture';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { z } from 'zod';
import { ApiClient, ApiError, asJson, jsonOf } from './api-client';

let api: ApiClient;
let http: HttpTestingController;
beforeEach(() => {
  TestBed.resetTestingModule();
  TestBed.configureTestingModule({
    providers: [provideZonelessChangeDetection(), provideHttpClient(), provideHttpClientTesting()],
  });
  api = TestBed.inject(ApiClient);
  http = TestBed.inject(HttpTestingController);
});

const failed = (body: unknown, status: number): ApiError => {
  let seen: unknown;
  api.call('readJob', { params: { jobId: 'j' } }).subscribe({ error: (error: unknown) => (seen = error) });
  http.expectOne('/api/jobs/j').flush(body as never, { status, statusText: 'no' });
  expect(seen).toBeInstanceOf(ApiError);
  return seen as ApiError;
};

describe('calls of the server', () => {
  test('go where the contract says, by its method, with their body as JSON', () => {
    api.call('startOperation', { params: { jobId: 'j', operation: 'find-ground' }, body: { cell: 1 } }).subscribe();
    const { request } = http.expectOne('/api/jobs/j/operations/find-ground');
    expect([request.method, request.body]).toEqual(['POST', { cell: 1 }]);
  });

  test('files go as bytes, with their type', () => {
    const file = new Blob([Uint8Array.of(1, 2, 3)]);
    const call = { params: { jobId: 'j', operation: 'import-grid' }, query: { fileName: 'a b.tif' }, body: file };
    api.call('startWithFile', call as never).subscribe();
    const { request } = http.expectOne((r) => r.url.startsWith('/api/jobs/j/operations/import-grid/file'));
    expect(request.body).toBe(file);
    expect(request.headers.get('content-type')).toBe('application/octet-stream');
    expect(request.url).toContain('fileName=a+b.tif');
  });

  test('a problem arrives with its words and its faults by field', () => {
    const problem = { type: 'x', title: 'Wrong', status: 422, code: 'invalid', detail: 'The cell is not a length.' };
    const error = failed({ ...problem, errors: [{ pointer: '/cell', detail: 'Not a length.' }] }, 422);
    expect(error.message).toBe('The cell is not a length.');
    expect(error.problem.errors).toEqual([{ pointer: '/cell', detail: 'Not a length.' }]);
  });

  test('no answer, or one from somebody else, is told as such, with what to do', () => {
    for (const body of [null, '<html>Bad gateway</html>', { message: 'nope' }])
      expect(failed(body, 502).message).toMatch(/server does not answer\. Start it again/);
  });
});

describe('what travels', () => {
  test('bits of points go as base 64 (RFC 4648), wherever they stand; the rest stays as it is', () => {
    const bits = Uint8Array.from({ length: 70_000 }, (_, i) => i & 255);
    const sent = asJson({ a: [{ bits }], b: 1, c: 'x', d: undefined }) as { a: { bits: string }[] };
    expect(Buffer.from(sent.a[0]!.bits, 'base64')).toEqual(Buffer.from(bits));
    expect(sent).toMatchObject({ b: 1, c: 'x' });
    expect('d' in sent).toBe(false);
    expect(asJson(undefined)).toBeUndefined();
  });

  test('JSON that comes as bytes is held against its schema', () => {
    const bytes = new TextEncoder().encode('{"a":1}').buffer;
    expect(jsonOf(bytes, z.strictObject({ a: z.number() }))).toEqual({ a: 1 });
    expect(() => jsonOf(bytes, z.strictObject({ a: z.string() }))).toThrow();
  });
});
