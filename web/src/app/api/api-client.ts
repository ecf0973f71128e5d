import { HttpClient, HttpErrorResponse } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import { endpoints, type Endpoint, type EndpointId, type JobEvent, type Problem } from '@pampero/contract';
import { catchError, from, Observable, switchMap, throwError } from 'rxjs';
import type { z } from 'zod';
import { urlOf, type AnswerOf, type CallOf } from './urls';

export { urlOf } from './urls';

/** A problem the server told, as an error with its facts. */
export class ApiError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

const OFFLINE: Problem = {
  type: 'about:blank#no-answer',
  title: 'No answer from Pampero',
  status: 0,
  code: 'no-answer',
  detail: 'The Pampero server does not answer. Start it again; what was stored is safe.',
};

const UNKNOWN_HERE = 401;

/** Calls the server's endpoints as the contract has them. Errors arrive as {@link ApiError}. */
@Injectable({ providedIn: 'root' })
export class ApiClient {
  private readonly http = inject(HttpClient);

  call<K extends EndpointId>(id: K, given: CallOf<K>): Observable<AnswerOf<K>> {
    const endpoint: Endpoint = endpoints[id];
    const { body } = given as { body?: unknown };
    const isBytes = endpoint.bodyType !== undefined;
    return this.http
      .request(endpoint.method, urlOf(id, given), {
        body: isBytes ? body : asJson(body),
        ...(isBytes && { headers: { 'content-type': endpoint.bodyType! } }),
        responseType: (endpoint.responseType ? 'arraybuffer' : 'json') as 'json',
      })
      .pipe(catchError(asProblem)) as Observable<AnswerOf<K>>;
  }

  /** As {@link call}, for an answer that is a file: the browser may keep it on the disk, so it may be of any size. */
  file<K extends EndpointId>(id: K, given: CallOf<K>): Observable<Blob> {
    const { body } = given as { body?: unknown };
    return this.http
      .request(endpoints[id].method, urlOf(id, given), { body: asJson(body), responseType: 'blob' })
      .pipe(catchError(asProblem));
  }

  /** What happens in a job, as the server tells it; reconnects by itself and says so with `undefined`, since events may have been missed. */
  watchJob(jobId: string): Observable<JobEvent | undefined> {
    return new Observable((subscriber) => {
      const source = new EventSource(urlOf('watchJob', { params: { jobId } }));
      source.onopen = () => subscriber.next(undefined);
      source.onmessage = ({ data }: MessageEvent<string>) => subscriber.next(JSON.parse(data) as JobEvent);
      return () => source.close();
    });
  }
}

/** Bits of points travel as base 64. */
export function asJson(value: unknown): unknown {
  if (value === undefined) return undefined;
  return JSON.parse(
    JSON.stringify(value, (_, v: unknown) => {
      if (!(v instanceof Uint8Array)) return v;
      let text = '';
      for (let i = 0; i < v.length; i += 32_768) text += String.fromCharCode(...v.subarray(i, i + 32_768));
      return btoa(text);
    }),
  );
}

function asProblem(error: unknown): Observable<never> {
  // The server forgot this browser, or has another token now: its door asks again.
  if (error instanceof HttpErrorResponse && error.status === UNKNOWN_HERE) location.assign('/enter');
  if (error instanceof HttpErrorResponse && error.error instanceof Blob)
    return from(error.error.text()).pipe(switchMap((text) => throwError(() => new ApiError(problemIn(text)))));
  return throwError(() => (error instanceof HttpErrorResponse ? new ApiError(problemIn(error.error)) : error));
}

/** The problem in an answer, whether it came as JSON, as text or as bytes; no answer at all where it is none. */
function problemIn(body: unknown): Problem {
  let found = body;
  if (body instanceof ArrayBuffer) found = new TextDecoder().decode(body);
  if (typeof found === 'string') {
    try {
      found = JSON.parse(found);
    } catch {
      return OFFLINE;
    }
  }
  return found !== null && typeof found === 'object' && 'code' in found ? (found as Problem) : OFFLINE;
}

/** JSON that came as bytes, held against its schema. */
export function jsonOf<S extends z.ZodType>(bytes: ArrayBuffer, schema: S): z.output<S> {
  return schema.parse(JSON.parse(new TextDecoder().decode(bytes)));
}
