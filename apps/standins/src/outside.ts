import { Router } from 'express';
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
});
export type OutsideAnswer = z.infer<typeof OutsideAnswer>;

/** Stands in for every system of the clients' own: any host that ends in ".example". Keeps what it got, answers as it is told. */
export class OutsideStandin {
  readonly requests: OutsideRequest[] = [];
  readonly #answers = new Map<string, OutsideAnswer>();
  #count = 0;

  answer(answer: OutsideAnswer): void {
    this.#answers.set(answer.host, answer);
  }

  router(): Router {
    const router = Router();
    router.post('/outside/:host/{*path}', async (request, response) => {
      const { host } = request.params as unknown as { host: string };
      const headers = Object.fromEntries(Object.entries(request.headers).map(([name, value]) => [name, String(value)]));
      this.requests.push({
        host,
        path: request.url.slice(`/outside/${host}`.length),
        headers,
        body: request.body,
        raw: JSON.stringify(request.body),
        at: Date.now(),
      });
      if (this.requests.length > 5_000) this.requests.shift();
      const answer = this.#answers.get(host);
      if (answer?.times !== undefined && --answer.times <= 0) this.#answers.delete(host);
      if (answer?.slowMs) await new Promise((resolve) => setTimeout(resolve, answer.slowMs));
      if (!answer) return void response.json({ ok: true, id: ++this.#count });
      response.status(answer.status).set(answer.headers);
      if (answer.raw !== undefined) response.type('text/plain').send(answer.raw);
      else response.json(answer.body);
    });
    return router;
  }
}
