import type { ProblemDetails } from '@dart-loop/contract';

/** An answer that was not a success, with the server's own sentence. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    title: string,
    detail: string,
    readonly body: Record<string, unknown> = {},
  ) {
    super(detail);
    this.name = title;
  }
  /** What the server says of one field. */
  of(field: string): string | null {
    const errors = (this.body as Partial<ProblemDetails>).errors ?? [];
    return errors.find((error) => error.field === field)?.detail ?? null;
  }
}

/** Whether an address is a path or lies below it. */
export const isBelow = (path: string, address: string): boolean =>
  address === path || (/^[/?]/.test(address.slice(path.length)) && address.startsWith(path));

/** What is being asked for just now, with what ends it. */
const asked = new Map<AbortController, string>();

/** Ends what is being asked for below a path, which is about to be nobody's: it is answered by nothing. */
export function dropAsked(path: string): void {
  for (const [controller, address] of asked) if (isBelow(path, address)) controller.abort();
}

/** A press that heard nothing is tried again after these pauses; the server does it once. */
const AGAIN_MS = [400, 1_200];
/** What a proxy says while it finds no server. */
const NOBODY_THERE = [502, 504];

/** A name that no other press has. */
const pressName = (): string =>
  [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, '0')).join('');

/** Asks the server; where a press gets no answer, once more under the same name. */
async function fetched(path: string, init: RequestInit): Promise<{ response: Response; text: string }> {
  for (let tries = 0; ; tries++) {
    const pause = init.method === 'GET' ? undefined : AGAIN_MS[tries];
    try {
      const response = await fetch(`/api${path}`, init);
      const text = await response.text();
      if (pause === undefined || !NOBODY_THERE.includes(response.status)) return { response, text };
    } catch (error) {
      if (pause === undefined) throw error;
    }
    await new Promise((resolve) => setTimeout(resolve, pause));
  }
}

/** The one way to the server. Paths begin below /api. */
export async function ask<T>(
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  path: string,
  body?: unknown,
): Promise<T> {
  let response: Response;
  let text: string;
  const controller = new AbortController();
  if (method === 'GET') asked.set(controller, path);
  try {
    ({ response, text } = await fetched(path, {
      method,
      signal: controller.signal,
      credentials: 'same-origin',
      headers: {
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...(method !== 'GET' && { 'idempotency-key': pressName() }),
      },
      body: body === undefined ? undefined : JSON.stringify(body),
    }));
  } catch {
    if (controller.signal.aborted) return new Promise(() => undefined);
    throw new ApiError(
      0,
      'No connection',
      'The server cannot be reached. What you wrote is kept here; it is tried again.',
    );
  } finally {
    asked.delete(controller);
  }
  const parsed = response.headers.get('content-type')?.includes('json')
    ? (JSON.parse(text) as unknown)
    : text;
  if (response.ok) return parsed as T;
  const problem = (typeof parsed === 'object' && parsed ? parsed : {}) as Partial<ProblemDetails>;
  throw new ApiError(
    response.status,
    problem.title ?? 'Something went wrong',
    problem.detail ?? `The server answered ${response.status}.`,
    problem as Record<string, unknown>,
  );
}

/** Hands in a file as its bytes, and tells how much of it has gone (0 to 1). */
export function sendFile<T>(path: string, file: Blob, progress: (part: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `/api${path}`);
    request.setRequestHeader('content-type', 'application/octet-stream');
    request.upload.onprogress = (event) => event.lengthComputable && progress(event.loaded / event.total);
    request.onerror = () =>
      reject(
        new ApiError(0, 'No connection', 'The server cannot be reached. The file was not taken; try again.'),
      );
    request.onload = () => {
      const body = (
        /json/.test(request.getResponseHeader('content-type') ?? '') ? JSON.parse(request.responseText) : {}
      ) as Partial<ProblemDetails>;
      if (request.status < 300) resolve(body as T);
      else
        reject(
          new ApiError(
            request.status,
            body.title ?? 'Something went wrong',
            body.detail ?? `The server answered ${request.status}.`,
            body as Record<string, unknown>,
          ),
        );
    };
    request.send(file);
  });
}

export const get = <T>(path: string) => ask<T>('GET', path);
