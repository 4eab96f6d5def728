import { Router, json } from 'express';
import { parsePhoneNumberFromString, type CountryCode } from 'libphonenumber-js';
import { InletCall } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import { withClients, type Connection, type Db } from '../platform/db/pool';
import { tellConversations } from '../people/starting';
import { tokenHash } from '../platform/secrets';
import { takeIn, type OpenInlet } from './incoming';
import { refuseTooDeep, type Limits } from '../http/limits';
import { Problem, badInput } from '../platform/problem';

/**
 * The address that other systems call: POST /in/TOKEN. Where the webhook has a mapping, a person is read from
 * the body, found or made, and changed; else the body names one: {"person": {"email": "…"}}. Loops that wait
 * for the webhook start for that person.
 */
export function inletCalls({
  database,
  clock,
  key,
  limits,
  wake,
}: {
  database: Db;
  clock: Clock;
  key: Buffer;
  limits: Limits;
  wake: () => void;
}): Router {
  const router = Router();
  router.post(
    '/in/:token',
    limits.aMinute('webhook', 1_200, { keyOf: (request) => String(request.params.token) }),
    json({ limit: '100kb' }),
    refuseTooDeep,
    async (request, response) => {
      const { rows } = await database.query<OpenInlet>('select * from client_of_inlet($1)', [
        tokenHash(String(request.params.token)),
      ]);
      const inlet = rows[0];
      if (!inlet) throw new Problem(404, 'Not found', 'There is no such webhook.');
      const now = clock.now();
      const body: unknown = request.body;
      const within = <T>(work: (db: Connection) => Promise<T>) =>
        withClients(database, [inlet.client_id], work);
      const listens = inlet.listens_until !== null && inlet.listens_until.getTime() > now;
      if (listens && (body === null || typeof body !== 'object' || Array.isArray(body)))
        throw new Problem(400, 'That cannot be used', 'The body must be a JSON object.');
      if (listens)
        await within((db) =>
          db.query(
            `
              update inlet set example = $3, example_at = $4, listens_until = null, last_heard_at = $4
              where client_id = $1 and id = $2`,
            [inlet.client_id, inlet.id, toJson(body), new Date(now)],
          ),
        );
      if (listens && !inlet.reading) return void response.status(202).json({ kept: 'as the example' });
      try {
        const answer = await within(async (db) => {
          const taken = inlet.reading
            ? await read(db, { ...inlet, reading: inlet.reading }, body, now, key)
            : await name(db, inlet, body, now);
          await db.query(
            'update inlet set last_heard_at = $3, refusal = null where client_id = $1 and id = $2',
            [inlet.client_id, inlet.id, new Date(now)],
          );
          return taken;
        });
        wake();
        response.status(answer.status).json(answer.body);
      } catch (error) {
        if (error instanceof Problem)
          await within((db) =>
            db.query('update inlet set last_heard_at = $3, refusal = $4 where client_id = $1 and id = $2', [
              inlet.client_id,
              inlet.id,
              new Date(now),
              withoutValues(error.message),
            ]),
          );
        throw error;
      }
    },
  );
  return router;
}

interface Taken {
  status: number;
  body: object;
}

/** What is kept of a refusal holds nothing of a person: what stands in quotation marks is theirs. */
const withoutValues = (sentence: string): string => sentence.replace(/“[^”]*”/g, '“…”').slice(0, 500);

async function read(
  db: Connection,
  inlet: OpenInlet & { reading: NonNullable<OpenInlet['reading']> },
  body: unknown,
  now: number,
  key: Buffer,
): Promise<Taken> {
  const done = await takeIn(db, inlet, body, now, key);
  await tellConversations(db, inlet.client_id, [{ person_id: done.person.id, incoming: hookOf(inlet) }], now);
  return { status: 200, body: { ...done, person: done.person.id } };
}

const hookOf = ({ hook }: OpenInlet) => ({ kind: 'webhook', hook, name: hook });

async function name(db: Connection, inlet: OpenInlet, body: unknown, now: number): Promise<Taken> {
  const call = InletCall.safeParse(body);
  if (!call.success) throw badInput(call.error);
  const { person } = call.data;
  const client = (
    await db.query<{ country: string }>('select country from client where id = $1', [inlet.client_id])
  ).rows[0]!;
  const phone =
    person.phone === undefined
      ? null
      : (parsePhoneNumberFromString(person.phone, client.country as CountryCode)?.number ?? person.phone);
  const { rows } = await db.query<{ conversation_id: string; line_id: number }>(
    `
     select c.id as conversation_id, c.line_id from conversation c join person p on p.client_id = c.client_id
       and p.id = c.person_id
     where c.client_id = $1 and ($2::uuid is null or p.id = $2)
       and ($3::text is null or c.address = $3 or p.fields -> 'phone' ->> 'value' = $3)
       and ($4::text is null or lower(p.fields -> 'email' ->> 'value') = lower($4))
         and ($5::text is null or c.address = $5)
     order by c.last_at desc limit 1`,
    [inlet.client_id, person.id ?? null, phone, person.email ?? null, person.address ?? null],
  );
  const [by, value] = Object.entries(person)[0]!;
  if (!rows[0])
    throw new Problem(
      404,
      'Nobody found',
      `The client has nobody with the ${by} “${value}” who has written on one of its lines.`,
    );
  await db.query(
    `
      insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at,
        body) values ($1, $2, $3, null, null, $4, $4, $5)`,
    [
      inlet.client_id,
      rows[0].line_id,
      rows[0].conversation_id,
      new Date(now),
      toJson({ incoming: hookOf(inlet) }),
    ],
  );
  return { status: 202, body: { taken: inlet.hook } };
}
