import { Router, type Request, type Response } from 'express';
import { z } from 'zod';

/** What another system got. */
export interface OutsideRequest {
  host: string;
  path: string;
  headers: Record<string, string>;
  body: unknown;
  raw: string;
  at: number;
}

/** How a host answers from now on; `times` limits it to the next so many requests. */
export const OutsideAnswer = z.object({
  host: z.string(),
  status: z.number().int().min(200).max(599),
  body: z.json().default({}),
  raw: z.string().optional(),
  headers: z.record(z.string(), z.string()).default({}),
  slowMs: z.number().int().max(60_000).default(0),
  times: z.number().int().positive().optional(),
  /** It breaks off in the middle of its answer. */
  half: z.boolean().optional(),
  /** It writes what it is told to, and its answer is lost. */
  lost: z.boolean().optional(),
});
export type OutsideAnswer = z.infer<typeof OutsideAnswer>;

/** A service that stands at a host and answers by itself, where it is not told otherwise. */
export interface Service {
  handle(request: Request, response: Response, path: string): void;
}

/**
 * Stands in for every system of the clients' own: any host that ends in ".example". Keeps what it got,
 * answers as it is told.
 */
export class OutsideStandin {
  readonly requests: OutsideRequest[] = [];
  readonly #answers = new Map<string, OutsideAnswer>();
  #count = 0;
  /** Services that came later, such as websites. */
  readonly #more = new Map<string, Service>();
  constructor(private readonly services: Readonly<Record<string, Service>> = {}) {}

  /** Puts a service at a host. */
  serve(host: string, service: Service): void {
    this.#more.set(host, service);
  }

  answer(answer: OutsideAnswer): void {
    this.#answers.set(answer.host, answer);
  }

  /** Answers by itself again. */
  well(host: string): void {
    this.#answers.delete(host);
  }

  router(): Router {
    const router = Router();
    router.all('/outside/:host/{*path}', async (request, response) => {
      const { host } = request.params as unknown as { host: string };
      const path = request.url.slice(`/outside/${host}`.length);
      const headers = Object.fromEntries(
        Object.entries(request.headers).map(([name, value]) => [name, String(value)]),
      );
      this.requests.push({
        host,
        path,
        headers,
        body: request.body,
        raw: typeof request.body === 'string' ? request.body : JSON.stringify(request.body),
        at: Date.now(),
      });
      if (this.requests.length > 5_000) this.requests.shift();
      const answer = this.#answers.get(host);
      if (answer?.times !== undefined && --answer.times <= 0) this.#answers.delete(host);
      if (answer?.slowMs) await new Promise((resolve) => setTimeout(resolve, answer.slowMs));
      if (answer?.lost && request.method !== 'GET') response.json = () => (response.destroy(), response);
      if (!answer || answer.lost) {
        const service = this.#more.get(host) ?? this.services[host];
        return service
          ? service.handle(request, response, path)
          : void response.json({ ok: true, id: ++this.#count });
      }
      response.status(answer.status).set(answer.headers);
      if (answer.half) {
        response.set('content-length', '1000').write('{"id": ');
        response.destroy();
      } else if (answer.raw !== undefined) response.type('text/plain').send(answer.raw);
      else response.json(answer.body);
    });
    return router;
  }
}
