import { z } from 'zod';
import { endpoints, type Endpoint } from './endpoints/index.js';
import { incomingFileSchema } from './incoming.js';
import { stateUnit } from './parameters/stated-units.js';
import { operations, type OperationDescription } from './operations/index.js';
import { problemSchema } from './resources/problem.js';

type JsonSchema = (schema: z.ZodType, io: 'input' | 'output') => Record<string, unknown>;

/** Schemas that others refer to, by the name they have in the document. */
type Shared = Map<string, Record<string, unknown>>;

/**
 * A schema as it stands in the document. What it defines for itself is put among the document's own schemas: within a document
 * a reference starts at the document, not at the schema it stands in.
 */
function jsonSchema(shared: Shared, schema: z.ZodType, io: 'input' | 'output'): Record<string, unknown> {
  const {
    $schema: _,
    $defs,
    ...rest
  } = z.toJSONSchema(schema, {
    io,
    unrepresentable: 'any',
    override: ({ jsonSchema: given }) => {
      if (io === 'input') stateUnit(given as Record<string, unknown>, 'metre');
    },
  }) as {
    readonly [key: string]: unknown;
    readonly $defs?: Record<string, Record<string, unknown>>;
  };
  if (!$defs) return rest;
  const names = new Map(Object.keys($defs).map((name, k) => [name, `shared-${shared.size + k}`]));
  const renamed = <T>(value: T): T =>
    JSON.parse(
      JSON.stringify(value).replace(
        /"#\/\$defs\/([^"]+)"/g,
        (_whole, name: string) => `"#/components/schemas/${names.get(name) ?? name}"`,
      ),
    ) as T;
  for (const [name, definition] of Object.entries($defs)) shared.set(names.get(name)!, renamed(definition));
  return renamed(rest);
}

/** The API as an OpenAPI 3.1 document, written from the endpoints and operations themselves. */
export function openApiDocument(): Record<string, unknown> {
  const shared: Shared = new Map();
  const json: JsonSchema = (schema, io) => jsonSchema(shared, schema, io);
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [operationId, endpoint] of Object.entries(endpoints) as [string, Endpoint][]) {
    const path = `/api${endpoint.path}`;
    paths[path] = { ...paths[path], [endpoint.method]: describe(json, operationId, endpoint) };
  }
  const schemas = {
    Problem: json(problemSchema, 'output'),
    ...Object.fromEntries(
      operations.map((operation) => [
        operation.id,
        { description: operation.does, ...json(bodyOf(operation), 'input') },
      ]),
    ),
  };
  return {
    openapi: '3.1.0',
    info: { title: 'Pampero', version: '0.1.0', description: 'Everything the screens do, for a person or a script.' },
    paths,
    components: {
      schemas: { ...schemas, ...Object.fromEntries(shared) },
    },
  };
}

/** What an operation is started with: its parameters, in metres, and its file where it works from one. */
function bodyOf(operation: OperationDescription): z.ZodType {
  const parameters = operation.parameters('metre');
  return operation.takesFile ? z.strictObject({ file: incomingFileSchema, ...parameters.shape }) : parameters;
}

function describe(json: JsonSchema, operationId: string, endpoint: Endpoint): Record<string, unknown> {
  const parameters = [...parametersOf(json, endpoint.params, 'path'), ...parametersOf(json, endpoint.query, 'query')];
  const answer = endpoint.response
    ? { content: { 'application/json': { schema: json(endpoint.response, 'output') } } }
    : endpoint.responseType
      ? { content: { [endpoint.responseType]: { schema: { type: 'string', format: 'binary' } } } }
      : {};
  const body = endpoint.bodyType
    ? { content: { [endpoint.bodyType]: { schema: { type: 'string', format: 'binary' } } }, required: true }
    : operationId === 'startOperation'
      ? {
          content: {
            'application/json': {
              // Two operations may take the same: withholding and restoring do.
              schema: { anyOf: operations.map((o) => ({ $ref: `#/components/schemas/${o.id}` })) },
            },
          },
          required: true,
        }
      : endpoint.body && { content: { 'application/json': { schema: json(endpoint.body, 'input') } }, required: true };
  return {
    operationId,
    summary: endpoint.summary,
    ...(parameters.length > 0 && { parameters }),
    ...(body && { requestBody: body }),
    responses: {
      [endpoint.status]: { description: endpoint.summary, ...answer },
      default: {
        description: 'A problem (RFC 9457).',
        content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
      },
    },
  };
}

function parametersOf(json: JsonSchema, schema: z.ZodObject | undefined, place: 'path' | 'query'): unknown[] {
  if (!schema) return [];
  const { properties = {}, required = [] } = json(schema, 'input') as {
    properties?: Record<string, unknown>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, property]) => ({
    name,
    in: place,
    required: place === 'path' || required.includes(name),
    schema: property,
  }));
}
