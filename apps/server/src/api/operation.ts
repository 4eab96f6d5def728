import type { z } from 'zod';
import type { Scope } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import type { OpenClient } from '../http/route';

/** A call of a client's own system, its key known and its input read. */
export interface Called<Q, B> {
  client: OpenClient;
  /** The name of the key. */
  caller: string;
  params: Record<string, string>;
  query: Q;
  body: B;
  /** A transaction that sees the client's rows. */
  db: Connection;
  /** Done once the transaction is committed. */
  afterwards(work: () => void): void;
}

/** One operation of the API: what it does, and all that the OpenAPI document says of it. */
export interface Operation<Q = unknown, B = unknown, A = unknown> {
  method: 'get' | 'put' | 'post';
  /** Below /v1, its parts as OpenAPI writes them: "/people/{personId}". */
  path: string;
  id: string;
  summary: string;
  description?: string;
  scope: Scope;
  query?: z.ZodType<Q>;
  body?: z.ZodType<B>;
  answer: z.ZodType<A>;
  handle(called: Called<Q, B>): Promise<A>;
}

/** Keeps the types of query, body and answer together with the handler. */
export function operation<A, Q = Record<string, never>, B = Record<string, never>>(
  definition: Operation<Q, B, A>,
): Operation {
  return definition as unknown as Operation;
}
