import { z } from 'zod';
import { FieldKey, LineKey, ListName, TagName } from '@dart-loop/core/loops/model/basics';
import { Winner } from '@dart-loop/core/sync/settle';

/** What a key may do. */
export const SCOPES = ['read people', 'write people', 'start loops', 'read events'] as const;
export type Scope = (typeof SCOPES)[number];

export const NewKey = z.object({
  name: z
    .string()
    .trim()
    .min(1, 'a key needs a name, such as the system that holds it')
    .max(60, 'the name has at most 60 characters'),
  scopes: z
    .array(z.enum(SCOPES))
    .min(1, 'a key that may do nothing is of no use; choose at least one thing')
    .max(SCOPES.length),
});
export interface KeyRow {
  id: number;
  name: string;
  scopes: Scope[];
  /** The last four characters of its token. */
  hint: string;
  madeAt: string;
  lastUsedAt: string | null;
}
/** Shown once: only the token's hash is kept. */
export interface MadeKey {
  token: string;
}

// What the clients' own systems say and hear. The OpenAPI document is made from these, so each part says what
// it is.
const given = z.union([
  z.string().max(4_096),
  z.number(),
  z.boolean(),
  z.array(z.string().max(200)).max(100),
  z.null(),
]);
/** Any JSON; not spelt out, as schemas that stand in other documents cannot point to themselves. */
const anyJson = z.unknown();
const moment = z.iso.datetime({ offset: true });

/** Who is meant: by exactly one of these. */
export const PersonBy = z
  .object({
    id: z.uuid().describe('Our id of the person.'),
    email: z.string().trim().min(3).max(254),
    phone: z
      .string()
      .trim()
      .min(3)
      .max(40)
      .describe('In any notation of the client’s country, or with the country’s code.'),
  })
  .partial()
  .strict()
  .refine((by) => Object.keys(by).length === 1, 'name the person by exactly one of id, email or phone')
  .meta({ examples: [{ email: 'mira@example.org' }] });
export type PersonBy = z.infer<typeof PersonBy>;

export const PutPerson = z
  .object({
    by: PersonBy.describe('Who it is. Somebody who is not found by email or phone is made.'),
    firstName: z
      .string()
      .trim()
      .max(120)
      .nullable()
      .optional()
      .describe('Null takes it away.')
      .meta({ examples: ['Mira'] }),
    lastName: z.string().trim().max(120).nullable().optional().describe('Null takes it away.'),
    language: z
      .string()
      .regex(/^[a-z]{2}$/, 'a language is two small letters, such as "es"')
      .nullable()
      .optional()
      .describe('ISO 639-1.'),
    fields: z
      .record(FieldKey, given)
      .optional()
      .describe(
        'Values by the keys of the client’s fields, each as its type takes it; null takes a value away.',
      )
      .meta({ examples: [{ phone: '+44 7700 900123' }] }),
    tagsOn: z.array(TagName).max(50).optional().describe('Tags that are put on.'),
    tagsOff: z.array(TagName).max(50).optional().describe('Tags that are taken off.'),
    listsOn: z
      .array(ListName)
      .max(50)
      .optional()
      .describe('Lists that the person has agreed to be on; needs “stated”.'),
    listsOff: z.array(ListName).max(50).optional().describe('Lists that the person has left.'),
    identities: z
      .array(
        z
          .object({
            line: LineKey,
            address: z.string().trim().min(3).max(80),
            optIn: z.boolean().default(false),
          })
          .strict(),
      )
      .max(10)
      .optional()
      .describe(
        'Numbers on the client’s SMS and WhatsApp lines that the person is reached at. “optIn”: they have agreed to be written to there; needs “stated”.',
      ),
    stated: z
      .string()
      .trim()
      .min(1)
      .max(400)
      .optional()
      .describe(
        'What the opt-ins of this call rest on: “asked at the till on 3 June”. It is kept in the ledger.',
      ),
    wins: Winner.default('theirs').describe(
      'Whose value stays where we know another one for a field: ours, theirs (this call’s), or the newest.',
    ),
    changedAt: moment
      .optional()
      .describe(
        'When what this call tells was changed in your system; where “wins” is newest. Now, when left out.',
      ),
  })
  .strict()
  .refine(
    (put) => Boolean(put.stated) || !(put.listsOn?.length || put.identities?.some(({ optIn }) => optIn)),
    {
      path: ['stated'],
      message: 'say what the opt-in rests on, such as “asked at the till on 3 June”',
    },
  );
export type PutPerson = z.infer<typeof PutPerson>;

export const ApiPerson = z.object({
  id: z.uuid(),
  firstName: z.string().nullable(),
  lastName: z.string().nullable(),
  language: z.string().nullable(),
  fields: z.record(z.string(), anyJson).describe('Values by the fields’ keys.'),
  tags: z.array(z.string()),
  lists: z.array(z.string()),
  identities: z.array(
    z.object({ line: z.string(), channel: z.string(), optedIn: z.boolean(), optedOut: z.boolean() }),
  ),
  source: z.string().nullable().describe('Where the person came from.'),
  metAt: moment,
  seenAt: moment.describe('When the person last wrote.'),
});
export type ApiPerson = z.infer<typeof ApiPerson>;
export const PutPersonAnswer = z.object({
  made: z.boolean().describe('Whether the person was new.'),
  person: ApiPerson,
  passedOver: z
    .array(z.string())
    .describe(
      'What was not taken, and why: an opt-in of somebody who has opted out, a value that ours wins over.',
    ),
});
export type PutPersonAnswer = z.infer<typeof PutPersonAnswer>;

const cursor = z.string().max(80).optional().describe('Where to go on: the next of the last answer.');
const limit = z.coerce.number().int().min(1).max(500).default(100);
export const PeopleByCursor = z.object({ cursor, limit });
export const PeopleOfCursor = z.object({
  people: z.array(ApiPerson),
  next: z.string().nullable().describe('Null at the end.'),
});
export const EventsByCursor = z.object({ cursor, limit });
export const ApiEvent = z
  .object({
    specversion: z.literal('1.0'),
    id: z.string(),
    source: z.string(),
    type: z.enum([
      'person.field.changed',
      'person.tag.changed',
      'person.list.changed',
      'person.consent.changed',
      'person.booking.changed',
      'run.began',
      'run.ended',
    ]),
    subject: z.uuid().describe('The person.'),
    time: moment,
    datacontenttype: z.literal('application/json'),
    data: z.record(z.string(), anyJson),
  })
  .describe('A CloudEvent (1.0, structured JSON).');
export type ApiEvent = z.infer<typeof ApiEvent>;
export const EventsOfCursor = z.object({
  events: z.array(ApiEvent),
  next: z.string().describe('Always there: ask with it again for what happens from now on.'),
});
export const StartLoop = z
  .object({
    loop: z
      .string()
      .trim()
      .min(1)
      .max(80)
      .describe('The name of a live loop.')
      .meta({ examples: ['Sailing alerts'] }),
  })
  .strict();
export const StartedLoop = z.object({ started: z.literal(true), loop: z.string() });
export const ApiLoops = z.object({
  loops: z.array(z.object({ name: z.string(), lines: z.array(z.string()).describe('Empty: all lines.') })),
});
export const ApiFields = z.object({
  fields: z.array(
    z.object({ key: z.string(), name: z.string(), type: z.string(), options: z.array(z.string()) }),
  ),
});
export const ApiLines = z.object({
  lines: z.array(z.object({ key: z.string(), name: z.string(), channel: z.string() })),
});
