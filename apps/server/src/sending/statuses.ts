import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Db } from '../platform/db/pool';
import type { OpenLine, StatusReport } from '../channels/adapter';

/** A report may overtake our own writing down of what was sent; it is looked for once more after this. */
const AGAIN_AFTER_MS = 2_000;

/** Delivered, read, failed: each only ever forwards, however often and in whatever order it is told. */
const APPLY = `
  update message m set
    delivered_at = case when r.status in ('delivered', 'read') then coalesce(m.delivered_at, r.at)
      else m.delivered_at end,
    read_at = case when r.status = 'read' then coalesce(m.read_at, r.at) else m.read_at end,
    status = case when r.status = 'failed' then 'failed' when r.status = 'outside window' then 'held'
      else m.status end,
    failure = coalesce(r.failure, m.failure)
  from (select *
    from unnest($3::text[], $4::text[], $5::text[], $6::timestamptz[], $7::timestamptz[], $8::jsonb[]) as t
    (address, status, provider_id, up_to, at, failure)) r
  join conversation c on c.client_id = $1 and c.line_id = $2 and c.address = r.address
  where m.client_id = $1 and m.conversation_id = c.id and m.status = 'sent'
    and (m.provider_id = r.provider_id
      or (r.provider_id is null and m.sent_at <= r.up_to
      and (m.read_at is null or (r.status = 'delivered' and m.delivered_at is null))))
  returning m.provider_id`;

/** Writes down what platforms report on messages of ours. */
export class Statuses {
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly changed: (clientIds: number[]) => void,
  ) {}

  async store(line: OpenLine, reports: StatusReport[]): Promise<void> {
    if (reports.length === 0) return;
    const missing = await this.#apply(line, reports);
    this.changed([line.clientId]);
    if (missing.length === 0) return;
    const later = setTimeout(
      () =>
        void this.#apply(line, missing).then(
          () => this.changed([line.clientId]),
          () => undefined,
        ),
      AGAIN_AFTER_MS,
    );
    later.unref();
  }

  /** Gives the reports on single messages that were not found. */
  async #apply(line: OpenLine, reports: StatusReport[]): Promise<StatusReport[]> {
    const now = this.clock.now();
    const single = reports.flatMap((report): { report: StatusReport; id: string | null }[] =>
      report.ids === null || report.ids.length === 0
        ? [{ report, id: null }]
        : report.ids.map((id) => ({ report, id })),
    );
    const { rows } = await this.db.query<{ provider_id: string }>({
      name: 'statuses',
      text: APPLY,
      values: [
        line.clientId,
        line.id,
        single.map(({ report }) => report.address),
        single.map(({ report }) => report.status),
        single.map(({ id }) => id),
        single.map(({ report }) => new Date(report.upTo ?? now)),
        single.map(({ report }) => new Date(report.at ?? now)),
        single.map(({ report }) => (report.failure ? toJson(report.failure) : null)),
      ],
    });
    const found = new Set(rows.map((row) => row.provider_id));
    return single.flatMap(({ report, id }) =>
      id !== null && !found.has(id) ? [{ ...report, ids: [id] }] : [],
    );
  }
}
