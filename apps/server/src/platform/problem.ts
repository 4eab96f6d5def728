import type { ProblemDetails } from '@dart-loop/contract';
import type { z } from 'zod';

/** An answer that is not a success, with a clear sentence: RFC 9457 problem details. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly more: Record<string, unknown> = {},
  ) {
    super(detail);
  }

  body(): ProblemDetails & Record<string, unknown> {
    return {
      type: 'about:blank',
      title: this.title,
      status: this.status,
      detail: this.message,
      ...this.more,
    };
  }
}

export const notFound = (what: string) =>
  new Problem(404, 'Not found', `There is no such ${what}, or it is not one of your clients’.`);

/** Another of that name is there already, as 409. */
export const isTaken = (what: string, name: string, field = 'name') =>
  new Problem(409, 'There is one already', `${field}: the client has a ${what} “${name}” already.`, {
    errors: [{ field, detail: 'is taken' }],
  });

/** What a schema says was wrong, each with its field, as 400. */
export function badInput(error: z.ZodError): Problem {
  const errors = error.issues.map((issue) => ({ field: issue.path.join('.'), detail: issue.message }));
  const detail = errors
    .map((each) => (each.field ? `${each.field}: ${each.detail}` : each.detail))
    .join('; ');
  return new Problem(400, 'That cannot be used', `${detail}.`, { errors });
}

/** What was typed into one field cannot be used, for this reason, as 400. */
export const wrong = (field: string, detail: string): Problem =>
  new Problem(400, 'That cannot be used', `${field}: ${detail}.`, { errors: [{ field, detail }] });

/** What was asked for cannot be done as things are now, in a sentence, as 409. */
export const notDone = (sentence: string): Problem => new Problem(409, 'Not done', sentence);

/** Whoever was asked for is not there, said of the part that names them, as 404. */
export const nobodyFound = (field: string, detail: string): Problem =>
  new Problem(404, 'Nobody found', `${field}: ${detail}.`);

/** What a body holds, read by its schema. Throws as 400 what is wrong with it. */
export function readBody<T>(schema: z.ZodType<T>, body: unknown): T {
  const read = schema.safeParse(body);
  if (!read.success) throw badInput(read.error);
  return read.data;
}
