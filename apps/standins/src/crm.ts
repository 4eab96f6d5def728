import { Router, urlencoded, type Request, type Response } from 'express';
import { escaped, pageOf } from './page';

/** What the CRM wants of a contact; an email address belongs to one contact only. */
const COLUMNS = [
  { name: 'email', type: 'text', required: true },
  { name: 'name', type: 'text', required: false },
  { name: 'phone', type: 'text', required: false },
  { name: 'town', type: 'text', required: false },
  { name: 'trips', type: 'number', required: false },
  { name: 'born', type: 'date', required: false },
  { name: 'news', type: 'yes/no', required: false },
  { name: 'tags', type: 'list', required: false },
];
const FITS: Record<string, (value: unknown) => boolean> = {
  text: (value) => typeof value === 'string',
  number: (value) => typeof value === 'number',
  date: (value) => typeof value === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(value),
  'yes/no': (value) => typeof value === 'boolean',
  list: (value) => Array.isArray(value) && value.every((each) => typeof each === 'string'),
};

/** Stands in for a client's CRM at crm.example: contacts that are found, made and changed over HTTP. */
export class CrmStandin {
  static readonly token = 'crm-demo-token';
  readonly contacts = new Map<string, Record<string, unknown>>();
  /** Every change in the order it came, with the key it came under; repeats are counted once. */
  readonly changes: { key: string; id: string; cells: Record<string, unknown> }[] = [];
  repeats = 0;
  /**
   * Where it tells of every change, made by whomever, one after the other; how long each takes on its way
   * (ms).
   */
  tells: { address: string; slowMs?: () => number } | null = null;
  #told: Promise<unknown> = Promise.resolve();
  /** What it has been answered. */
  readonly answers: { status: number; body: unknown }[] = [];
  #ids = 0;
  readonly #answered = new Map<string, { status: number; body: unknown }>();

  /** Answers a request to crm.example; `path` begins after the host. */
  handle(request: Request, response: Response, path: string): void {
    if (request.headers.authorization !== `Bearer ${CrmStandin.token}`)
      return void response.status(401).json({ error: 'token' });
    const [, part, id] = path.split('?')[0]!.split('/');
    if (part !== 'contacts') return void response.status(404).json({ error: 'no such place' });
    if (request.method === 'GET') {
      if (id === 'columns') return void response.json({ columns: COLUMNS });
      const wanted = Object.entries(request.query);
      const found = [...this.contacts].filter(([, cells]) =>
        wanted.every(([column, value]) => String(cells[column]) === value),
      );
      return void response.json(found.map(([each, cells]) => ({ id: each, ...cells })));
    }
    const key = String(request.headers['idempotency-key'] ?? '');
    const before = key === '' ? undefined : this.#answered.get(`${request.method} ${key}`);
    if (before) {
      this.repeats++;
      return void response.status(before.status).json(before.body);
    }
    const { status, body } = this.#write(request.method, id, request.body as Record<string, unknown>, key);
    if (key !== '' && status < 300) this.#answered.set(`${request.method} ${key}`, { status, body });
    response.status(status).json(body);
  }

  #write(
    method: string,
    id: string | undefined,
    cells: Record<string, unknown>,
    key: string,
  ): { status: number; body: unknown } {
    for (const [name, value] of Object.entries(cells)) {
      const column = COLUMNS.find((each) => each.name === name);
      if (!column) return { status: 422, body: { error: `no column ${name}` } };
      if (!FITS[column.type]!(value))
        return { status: 422, body: { error: `${name} is not ${column.type}` } };
    }
    if (method === 'POST') {
      if (!cells.email) return { status: 422, body: { error: 'email is required' } };
      if ([...this.contacts.values()].some(({ email }) => email === cells.email))
        return { status: 409, body: { error: 'exists' } };
      const made = `C-${String(++this.#ids).padStart(18, '0')}`;
      this.contacts.set(made, cells);
      this.changes.push({ key, id: made, cells });
      this.#tell(made);
      return { status: 201, body: { id: made } };
    }
    if (method !== 'PATCH' || id === undefined) return { status: 405, body: { error: 'no such way' } };
    const contact = this.contacts.get(id);
    if (!contact) return { status: 404, body: { error: 'no such contact' } };
    this.contacts.set(id, { ...contact, ...cells });
    this.changes.push({ key, id, cells });
    this.#tell(id);
    return { status: 200, body: { id } };
  }

  /** Somebody over there makes a contact or changes one. */
  byHand(id: string | null, cells: Record<string, unknown>): string {
    const at = id ?? `C-${String(++this.#ids).padStart(18, '0')}`;
    this.contacts.set(at, { ...this.contacts.get(at), ...cells });
    this.#tell(at);
    return at;
  }

  /** Once all that it has to tell is told. */
  async quiet(): Promise<void> {
    for (let last; last !== this.#told;) {
      last = this.#told;
      await last;
    }
  }

  #tell(id: string): void {
    const { tells } = this;
    if (!tells) return;
    const body = JSON.stringify({
      event: 'contact.changed',
      changed_at: new Date().toISOString(),
      contact: { id, ...this.contacts.get(id) },
    });
    this.#told = this.#told.then(async () => {
      await new Promise((resolve) => setTimeout(resolve, tells.slowMs?.() ?? 0));
      for (let tries = 0; tries < 5; tries++)
        try {
          const answer = await fetch(tells.address, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body,
          });
          this.answers.push({ status: answer.status, body: await answer.json() });
          if (answer.status < 500 && answer.status !== 429) return;
        } catch {
          await new Promise((resolve) => setTimeout(resolve, 100));
        }
    });
  }

  /** The page to look at what arrived: /crm. */
  router(): Router {
    const router = Router();
    router.get('/crm', (_request, response) => {
      const rows = [...this.contacts].reverse().slice(0, 500);
      const columns = COLUMNS.map(({ name }) => name);
      response.type('html').send(
        pageOf(
          'Contacts',
          `${this.contacts.size} contacts. Token: ${CrmStandin.token}`,
          ['id', ...columns],
          rows.map(([id, cells]) => [id, ...columns.map((column) => escaped(cells[column]))]),
          `<form method="post" action="/crm"><p><label>Contact <input name="id" required></label> <label>Town <input name="town"></label> <button>Change it by hand</button></p></form>`,
        ),
      );
    });
    router.post('/crm', urlencoded({ extended: false }), (request, response) => {
      const { id, town } = request.body as { id: string; town: string };
      if (!this.contacts.has(id))
        return void response.status(404).type('text').send('There is no such contact.');
      this.byHand(id, { town });
      response.redirect(303, '/crm');
    });
    return router;
  }
}
