import { valueWords, type Value } from '@dart-loop/core';
import {
  ApiFields,
  ApiLines,
  ApiPerson,
  PeopleByCursor,
  PeopleOfCursor,
  PutPerson,
  PutPersonAnswer,
  type ApiPerson as Person,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import type { Connection } from '../platform/db/pool';
import { Problem, notFound } from '../platform/problem';
import { isUuid } from '../platform/ids';
import { readPeople, type KnownPerson } from '../people/facts';
import { settingOf } from '../people/meeting';
import { upsertPerson } from '../people/upsert';
import { operation } from './operation';

/** People: found, read, made and changed. */
export const peopleOperations = ({ clock, key, woken }: { clock: Clock; key: Buffer; woken: () => void }) => [
  operation({
    method: 'put',
    path: '/people',
    id: 'putPerson',
    summary: 'Add or change a person',
    description:
      'Found by id, email or phone, else made. Only what is given changes. Calls about the same address wait for each other, so that one person is made of them.',
    scope: 'write people',
    body: PutPerson,
    answer: PutPersonAnswer,
    async handle({ db, client, caller, body, afterwards }) {
      const setting = await settingOf(db, client.id, clock.now());
      const { now } = setting.cells;
      const { by, stated, wins, changedAt, tagsOn, tagsOff, listsOn, listsOff, fields = {}, ...rest } = body;
      const done = await upsertPerson(
        db,
        setting,
        {
          ...rest,
          by,
          fields: Object.fromEntries(
            Object.entries(fields).map(([field, given]) => [field, { given, wins }]),
          ),
          tags: { on: tagsOn, off: tagsOff },
          lists: { on: listsOn, off: listsOff },
          stated: stated ?? null,
          at: changedAt === undefined ? now : Math.min(Date.parse(changedAt), now),
          source: caller,
        },
        { kind: 'system', name: caller },
        key,
      );
      afterwards(woken);
      return { made: done.made, person: seen(done.person), passedOver: done.passedOver };
    },
  }),
  operation({
    method: 'get',
    path: '/people',
    id: 'readPeople',
    summary: 'Read people, page by page',
    description: 'In the order of their ids. To hear of changes, read the events.',
    scope: 'read people',
    query: PeopleByCursor,
    answer: PeopleOfCursor,
    async handle({ db, client, query: { cursor, limit } }) {
      if (cursor !== undefined && !isUuid(cursor))
        throw new Problem(
          400,
          'That cannot be used',
          'cursor: give back the “next” of the last answer as it was.',
        );
      const { rows } = await db.query<{ id: string }>(
        'select id from person where client_id = $1 and id > $2 order by id limit $3',
        [client.id, cursor ?? '00000000-0000-0000-0000-000000000000', limit + 1],
      );
      const ids = rows.slice(0, limit).map(({ id }) => id);
      const known = new Map((await readPeople(db, client.id, ids)).map((person) => [person.id, person]));
      return {
        people: ids.flatMap((id) => (known.has(id) ? [seen(known.get(id)!)] : [])),
        next: rows.length > limit ? ids.at(-1)! : null,
      };
    },
  }),
  operation({
    method: 'get',
    path: '/people/{personId}',
    id: 'readPerson',
    summary: 'Read one person',
    scope: 'read people',
    answer: ApiPerson,
    async handle({ db, client, params }) {
      const [person] = await readPeople(db, client.id, [params.personId!]);
      if (!person) throw notFound('person');
      return seen(person);
    },
  }),
  operation({
    method: 'get',
    path: '/fields',
    id: 'readFields',
    summary: 'Read which fields people have',
    scope: 'read people',
    answer: ApiFields,
    async handle({ db, client }) {
      const { rows } = await db.query<{ key: string; name: string; type: string; options: string[] }>(
        'select key, name, type, options from field where client_id = $1 order by key',
        [client.id],
      );
      return { fields: rows };
    },
  }),
  operation({
    method: 'get',
    path: '/lines',
    id: 'readLines',
    summary: 'Read which lines people are reached on',
    scope: 'read people',
    answer: ApiLines,
    handle: async ({ db, client }) => ({ lines: await linesOf(db, client.id) }),
  }),
];

interface Line {
  key: string;
  name: string;
  channel: string;
}
const linesOf = async (db: Connection, clientId: number): Promise<Line[]> =>
  (await db.query<Line>('select key, name, channel from line where client_id = $1 order by id', [clientId]))
    .rows;

function seen(person: KnownPerson): Person {
  return {
    id: person.id,
    firstName: person.firstName,
    lastName: person.lastName,
    language: person.language,
    fields: Object.fromEntries(Object.entries(person.fields).map(([field, value]) => [field, asJson(value)])),
    tags: person.tags,
    lists: person.lists,
    identities: person.ties.map(({ key, channel, optedIn, optedOut }) => ({
      line: key,
      channel,
      optedIn,
      optedOut,
    })),
    source: person.source,
    metAt: new Date(person.met).toISOString(),
    seenAt: new Date(person.seen).toISOString(),
  };
}

/**
 * A value as JSON has it: numbers, truths and lists as such, places and files as objects, all else as text.
 */
const asJson = (value: Value): Person['fields'][string] =>
  typeof value.value === 'object' || typeof value.value === 'number' || typeof value.value === 'boolean'
    ? value.value
    : valueWords(value);
