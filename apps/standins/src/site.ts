import type { Request, Response } from 'express';
import { z } from 'zod';
import type { Service } from './outside';

/** A website: what stands at each of its paths. A path that ends in * stands for all that begin so. */
export const Site = z.object({
  host: z.string(),
  pages: z.record(
    z.string(),
    z.object({
      status: z.number().int().default(200),
      type: z.string().default('text/html; charset=utf-8'),
      headers: z.record(z.string(), z.string()).default({}),
      /** In it, {path} is the path that was asked for. */
      text: z.string().default(''),
      /** So many bytes of nothing instead. */
      bytes: z.number().int().optional(),
    }),
  ),
});
export type Site = z.infer<typeof Site>;

/** Serves a website. */
export class SiteStandin implements Service {
  constructor(private readonly pages: Site['pages']) {}

  handle(_request: Request, response: Response, path: string): void {
    const place = path.split('?')[0] || '/';
    const page =
      this.pages[path] ??
      this.pages[place] ??
      Object.entries(this.pages).find(
        ([each]) => each.endsWith('*') && path.startsWith(each.slice(0, -1)),
      )?.[1];
    if (!page) return void response.status(404).type('text/html').send('<h1>Not found</h1>');
    response.status(page.status).set(page.headers).type(page.type);
    response.send(
      page.bytes === undefined ? page.text.replaceAll('{path}', path) : Buffer.alloc(page.bytes, 32),
    );
  }
}
