import { z } from 'zod';
import { endpoints, type Endpoint } from './endpoints/index.js';
import { incomingFileSchema } from './incoming.js';
import { operations, type OperationDescription } from './operations/index.js';
import { problemSchema } from './resources.js';

const json = (schema: z.ZodType, io: 'input' | 'output') => {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: 'any' }) as Record<string, unknown>;
  return rest;
};

/** The API as an OpenAPI 3.1 document, written from the endpoints and operations themselves. */
export function openApiDocument(): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [operationId, endpoint] of Object.entries(endpoints) as [string, Endpoint][]) {
    const path = `/api${endpoint.path}`;
    paths[path] = { ...paths[path], [endpoint.method]: describe(operationId, endpoint) };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Pampero', version: '0.1.0', description: 'Everything the screens do, for a person or a script.' },
    paths,
    components: {
      schemas: {
        Problem: json(problemSchema, 'output'),
        ...Object.fromEntries(
          operations.map((operation) => [
            operation.id,
            { description: operation.does, ...json(bodyOf(operation), 'input') },
          ]),
        ),
      },
    },
  };
}

/** What an operation is started with: its parameters, in metres, and its file where it works from one. */
function bodyOf(operation: OperationDescription): z.ZodType {
  const parameters = operation.parameters('metre');
  return operation.takesFile ? z.strictObject({ file: incomingFileSchema, ...parameters.shape }) : parameters;
}

function describe(operationId: string, endpoint: Endpoint): Record<string, unknown> {
  const parameters = [...parametersOf(endpoint.params, 'path'), ...parametersOf(endpoint.query, 'query')];
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
              schema: { oneOf: operations.map((o) => ({ $ref: `#/components/schemas/${o.id}` })) },
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

function parametersOf(schema: z.ZodObject | undefined, place: 'path' | 'query'): unknown[] {
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
