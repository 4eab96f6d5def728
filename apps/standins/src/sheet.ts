import { Router, type Request, type Response } from 'express';
import { escaped, pageOf } from './page';

/**
 * Stands in for a client's sheet at sheet.example: rows that are appended (POST /rows) or written by a key
 * (PUT /rows/KEY).
 */
export class SheetStandin {
  static readonly token = 'sheet-demo-token';
  readonly rows = new Map<string, Record<string, unknown>>();
  repeats = 0;
  #appended = 0;
  readonly #seen = new Set<string>();

  /** Answers a request to sheet.example; `path` begins after the host. */
  handle(request: Request, response: Response, path: string): void {
    if (request.headers.authorization !== `Bearer ${SheetStandin.token}`)
      return void response.status(401).json({ error: 'token' });
    const [, part, name] = path.split('?')[0]!.split('/');
    if (part !== 'rows') return void response.status(404).json({ error: 'no such sheet' });
    if (request.method === 'GET') return void response.json({ rows: [...this.rows.values()] });
    const key = String(request.headers['idempotency-key'] ?? '');
    if (key !== '' && this.#seen.has(key)) this.repeats++;
    else {
      this.#seen.add(key);
      this.rows.set(
        name === undefined ? `row ${++this.#appended}` : decodeURIComponent(name),
        request.body as Record<string, unknown>,
      );
    }
    response.json({ ok: true });
  }

  /** The page to look at what arrived: /sheet. */
  router(): Router {
    const router = Router();
    router.get('/sheet', (_request, response) => {
      const columns = [...new Set([...this.rows.values()].flatMap((row) => Object.keys(row)))];
      const rows = [...this.rows.values()].slice(-500);
      response.type('html').send(
        pageOf(
          'Sheet',
          `${this.rows.size} rows. Token: ${SheetStandin.token}`,
          columns,
          rows.map((row) => columns.map((column) => escaped(row[column]))),
        ),
      );
    });
    return router;
  }
}
