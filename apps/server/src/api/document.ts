import { z } from 'zod';
import { SCOPES } from '@dart-loop/contract';
import type { Operation } from './operation';

/**
 * The OpenAPI document (3.1) of these operations, made from the schemas that their input is read and their
 * answers are typed by.
 */
export function openApi(operations: readonly Operation[], address: string): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const each of operations) (paths[each.path] ??= {})[each.method] = described(each);
  return {
    openapi: '3.1.0',
    info: {
      title: 'Dart Loop API',
      version: '1',
      description:
        'For one client’s own systems. A key belongs to a client and says what may be done: ' +
        `${SCOPES.join(', ')}. 600 calls a minute and key; over that comes 429 with Retry-After. What is wrong with a call is said as problem details (RFC 9457), ` +
        'and nothing of it has been done then.',
    },
    servers: [{ url: `${address}/v1` }],
    security: [{ key: [] }],
    paths,
    components: {
      securitySchemes: {
        key: { type: 'http', scheme: 'bearer', description: 'A key of the client, made under More → API.' },
      },
      schemas: { Problem: PROBLEM },
      responses: Object.fromEntries(
        Object.entries(REFUSALS).map(([status, description]) => [
          status,
          {
            description,
            content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
          },
        ]),
      ),
    },
  };
}

const REFUSALS = {
  '400': 'Something in the call does not fit; `errors` says where.',
  '401': 'No key that counts.',
  '403': 'The key may not do this.',
  '404': 'There is no such thing or person.',
  '409': 'Not as things stand; `detail` says why.',
  '429': 'Too many calls; `Retry-After` says when to go on.',
};

const PROBLEM = {
  type: 'object',
  required: ['type', 'title', 'status', 'detail'],
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    detail: { type: 'string' },
    errors: {
      type: 'array',
      items: {
        type: 'object',
        required: ['field', 'detail'],
        properties: { field: { type: 'string' }, detail: { type: 'string' } },
      },
    },
  },
};

function described({ id, summary, description, scope, path, query, body, answer }: Operation): object {
  const named = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string', format: 'uuid' },
  }));
  return {
    operationId: id,
    summary,
    description: [description, `Needs: ${scope}.`].filter(Boolean).join(' '),
    parameters: [...named, ...(query ? asParameters(query) : [])],
    ...(body && {
      requestBody: { required: true, content: { 'application/json': { schema: schemaOf(body, 'input') } } },
    }),
    responses: {
      '200': {
        description: 'Done.',
        content: { 'application/json': { schema: schemaOf(answer, 'output') } },
      },
      ...Object.fromEntries(
        Object.keys(REFUSALS).map((status) => [status, { $ref: `#/components/responses/${status}` }]),
      ),
    },
  };
}

function asParameters(query: z.ZodType): object[] {
  const { properties = {}, required = [] } = schemaOf(query, 'input') as {
    properties?: Record<string, object>;
    required?: string[];
  };
  return Object.entries(properties).map(
    ([name, { description, ...schema }]: [string, { description?: string }]) => ({
      name,
      in: 'query',
      required: required.includes(name),
      ...(description && { description }),
      schema,
    }),
  );
}

function schemaOf(schema: z.ZodType, io: 'input' | 'output'): object {
  const { $schema: _dialect, ...rest } = z.toJSONSchema(schema, { io });
  return rest;
}
