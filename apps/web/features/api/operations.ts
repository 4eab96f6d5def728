/** What of an OpenAPI document is needed to call it. */
export interface OpenApi {
  paths: Record<string, Record<string, DescribedOperation>>;
}
interface DescribedOperation {
  operationId: string;
  summary: string;
  description?: string;
  parameters?: {
    name: string;
    in: 'path' | 'query';
    required?: boolean;
    description?: string;
    schema: Schema;
  }[];
  requestBody?: { content: { 'application/json': { schema: Schema } } };
}
export interface Schema {
  type?: string;
  format?: string;
  description?: string;
  examples?: unknown[];
  enum?: unknown[];
  const?: unknown;
  default?: unknown;
  anyOf?: Schema[];
  items?: Schema;
  properties?: Record<string, Schema>;
  required?: string[];
}

/** An operation as it is tried. */
export interface Tryable extends DescribedOperation {
  method: string;
  path: string;
}

export const operationsOf = ({ paths }: OpenApi): Tryable[] =>
  Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({
      ...operation,
      method: method.toUpperCase(),
      path,
    })),
  );

/** Something that fits a schema: what it gives as an example, else the least that it takes. */
export function exampleOf(schema: Schema): unknown {
  if (schema.examples?.length) return schema.examples[0];
  if (schema.const !== undefined) return schema.const;
  if (schema.enum?.length) return schema.enum[0];
  if (schema.anyOf?.length) return exampleOf(schema.anyOf[0]!);
  switch (schema.type) {
    case 'object': {
      const { properties = {}, required = [] } = schema;
      const shown = Object.entries(properties).filter(
        ([name, each]) => required.includes(name) || each.examples?.length,
      );
      return Object.fromEntries(shown.map(([name, each]) => [name, exampleOf(each)]));
    }
    case 'array':
      return [];
    case 'number':
    case 'integer':
      return 0;
    case 'boolean':
      return false;
    default:
      return '';
  }
}

/** The address of a call, below the server: its path and query filled in, what is empty left out. */
export function addressOf(
  { path, parameters = [] }: Pick<Tryable, 'path' | 'parameters'>,
  given: Readonly<Record<string, string>>,
): string {
  const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(given[name] ?? ''));
  const asked = new URLSearchParams(
    parameters.flatMap(({ name, in: place }) =>
      place === 'query' && given[name] ? [[name, given[name]]] : [],
    ),
  ).toString();
  return `/v1${filled}${asked && `?${asked}`}`;
}
