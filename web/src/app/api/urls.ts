import { endpoints, type EndpointId } from '@pampero/contract';
import type { z } from 'zod';

type EndpointOf<K extends EndpointId> = (typeof endpoints)[K];
type Given<E, P extends 'params' | 'query' | 'body'> =
  E extends Readonly<Record<P, infer S extends z.ZodType>> ? z.input<S> : undefined;
type Part<P extends string, T> = undefined extends T
  ? Record<never, never>
  : Record<never, never> extends T
    ? Readonly<Partial<Record<P, T>>>
    : Readonly<Record<P, T>>;
/** What a call takes: parameters of its path, its query and its body, as the contract has them; bytes for those that take a file. */
export type CallOf<K extends EndpointId> = Part<'params', Given<EndpointOf<K>, 'params'>> &
  Part<'query', Given<EndpointOf<K>, 'query'>> &
  (EndpointOf<K> extends { readonly bodyType: string }
    ? { readonly body: Blob | ArrayBuffer }
    : Part<'body', Given<EndpointOf<K>, 'body'>>);
/** What it answers: JSON by its schema, bytes, or nothing. */
export type AnswerOf<K extends EndpointId> =
  EndpointOf<K> extends { readonly response: infer S extends z.ZodType }
    ? z.output<S>
    : EndpointOf<K> extends { readonly responseType: string }
      ? ArrayBuffer
      : null;

/** The address of an endpoint. The only place where addresses of the server are put together. */
export function urlOf<K extends EndpointId>(
  id: K,
  given: Pick<CallOf<K>, keyof CallOf<K> & ('params' | 'query')>,
): string {
  const { params = {}, query = {} } = given as {
    params?: Record<string, unknown>;
    query?: Record<string, unknown>;
  };
  const path = endpoints[id].path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(params[name])));
  const search = new URLSearchParams(
    Object.entries(query).flatMap(([name, value]): [string, string][] =>
      value === undefined ? [] : [[name, Array.isArray(value) ? value.join() : String(value)]],
    ),
  ).toString();
  return `/api${path}${search && `?${search}`}`;
}
