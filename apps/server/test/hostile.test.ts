import { createHmac } from 'node:crypto';
import fc from 'fast-check';
import type {
  AsidePage,
  ConversationPage,
  LineRow,
  MadeKey,
  TaskView,
  TodayPage,
  UploadPage,
} from '@dart-loop/contract';
import { smsAccess } from '../../standins/src/sms';
import { cleanText, isTooDeep, toJson } from '../src/platform/db/json';
import { BOT, NUMBER, Stage, until } from './support/stage';

/**
 * Text as a stranger may send it: any sequence of UTF-16, what looks like escapes, marks that turn the
 * direction, and a great deal of it.
 */
const piece = fc.oneof(
  { weight: 4, arbitrary: fc.integer({ min: 0, max: 0xffff }).map((code) => String.fromCharCode(code)) },
  {
    weight: 2,
    arbitrary: fc.constantFrom(
      '\\u0000',
      '\\\\u0000',
      '\0',
      '\\',
      '\\\\',
      '\\u',
      '\\ud800',
      '"',
      "'",
      '\u202e',
      '\u2066',
      '{{',
      '}}',
      '%',
      '$1',
      '\r\n',
    ),
  },
  { weight: 1, arbitrary: fc.constantFrom('\ud83d', '\ude00', '😀', '\ufffe', '\uffff', 'é', 'e\u0301') },
);
const hostile = fc.array(piece, { minLength: 1, maxLength: 60 }).map((pieces) => pieces.join(''));
const FIXED = [
  '\\u0000 the nineteen',
  '\\u0000',
  '\0',
  '\ud800',
  'a\0b',
  `\\"${'\\'.repeat(7)}`,
  'x'.repeat(20_000),
  '\u202eabc\u2069',
  '\\ud800\\udc00',
  "'; drop table person; --",
];

describe('text for the database', () => {
  test('is the text itself, without NUL and with a sign for half a pair', () => {
    fc.assert(
      fc.property(fc.oneof(hostile, fc.constantFrom(...FIXED)), (text) => {
        const kept = JSON.parse(toJson({ [text]: [text, { text }] })) as Record<string, unknown>;
        const expected = text.replaceAll('\0', '').toWellFormed();
        expect(cleanText(text)).toBe(expected);
        expect(kept).toEqual({ [expected]: [expected, { text: expected }] });
      }),
    );
  });
  test('whatever is nested deeper than anything honest is told without recursion', () => {
    const nested = (depth: number) => JSON.parse('['.repeat(depth) + ']'.repeat(depth)) as unknown;
    expect([99, 102, 5_000].map((depth) => isTooDeep(nested(depth)))).toEqual([false, true, true]);
  });
});

const CLIENT = '/clients/saltmarsh-ferries';
const GRAPH = { messenger: '100220011', instagram: '178410011', whatsapp: '106540022' } as const;
let stage: Stage;
let token: string;
let hook: string;
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
  ({ token } = await stage.api.post<MadeKey>(`${CLIENT}/keys`, {
    name: 'Till',
    scopes: ['read people', 'write people', 'start loops', 'read events'],
  }));
  await stage.fields(CLIENT, { town: 'text', notes: 'text' });
  ({ address: hook } = await stage.api.post<{ address: string }>(`${CLIENT}/webhooks`, { hook: 'till' }));
});
afterAll(() => stage.close());

/** A request of a platform: where it goes, and with what. */
interface Hook {
  what: string;
  url: string;
  headers: Record<string, string>;
  body: string;
}

/** What somebody with the number n does on Messenger or Instagram. */
function onMessaging(kind: 'messenger' | 'instagram', n: number, event: object): Omit<Hook, 'what'> {
  const { graph } = stage.standins;
  const id = GRAPH[kind];
  const who = { sender: { id: `9100${n}` }, recipient: { id }, timestamp: Date.now() };
  return {
    url: graph.subscriptions.get(kind === 'messenger' ? 'page' : 'instagram')!,
    ...graph.signed(kind, [{ id, time: Date.now(), messaging: [{ ...who, ...event }] }]),
  };
}

/** What they send on WhatsApp, under the name that they have there. */
function onWhatsApp(n: number, name: string, message: { id: string }): Omit<Hook, 'what'> {
  const { graph } = stage.standins;
  const timestamp = String(Math.floor(Date.now() / 1_000));
  const value = {
    messaging_product: 'whatsapp',
    metadata: { display_phone_number: '44', phone_number_id: GRAPH.whatsapp },
    contacts: [{ wa_id: `4477008${n}`, profile: { name } }],
    messages: [{ from: `4477008${n}`, timestamp, ...message }],
  };
  return {
    url: graph.accounts.get(`whatsapp:${GRAPH.whatsapp}`)!.webhook!,
    ...graph.signed('whatsapp', [{ id: 'waba', changes: [{ field: 'messages', value }] }]),
  };
}

/** Of a message on Telegram, what is the same in each. */
const onTelegram = (n: number) => ({
  date: Math.floor(Date.now() / 1_000),
  chat: { id: 71_000 + n, type: 'private' },
});

/** A webhook request of each channel with a text where its people can put one, and whose it is. */
function requests(text: string, n: number): (Hook & { address: string })[] {
  const { telegram, sms } = stage.standins;
  const bot = telegram.bot(BOT)!;
  telegram.meet(bot, 71_000 + n);
  const ofTelegram = telegram.update(bot, {
    message: {
      message_id: n,
      ...onTelegram(n),
      from: { id: 71_000 + n, is_bot: false, first_name: text, username: text.slice(0, 30) },
      text,
    },
  });
  const number = `+4477009${String(n).padStart(5, '0')}`;
  const form = new URLSearchParams({ Id: `hostile-${n}`, From: number, To: NUMBER, Body: text }).toString();
  const signature = `sha256=${createHmac('sha256', smsAccess(NUMBER).signing).update(form).digest('hex')}`;
  const messaging = (kind: 'messenger' | 'instagram') => ({
    what: kind,
    address: `9100${n}`,
    ...onMessaging(kind, n, { message: { mid: `m_${kind}_${n}`, text } }),
  });
  const onText = { id: `wamid.${n}`, type: 'text', text: { body: text } };
  return [
    { what: 'telegram', ...ofTelegram, address: String(71_000 + n) },
    {
      what: 'sms',
      url: sms.numbers.get(NUMBER)!.webhook!,
      headers: { 'content-type': 'application/x-www-form-urlencoded', 'x-signature-256': signature },
      body: form,
      address: number,
    },
    messaging('messenger'),
    messaging('instagram'),
    { what: 'whatsapp', address: `+4477008${n}`, ...onWhatsApp(n, text, onText) },
  ];
}

/** Buttons that are tapped and files that are sent, with a text where labels, references and names stand. */
function tapsAndFiles(text: string, n: number): Hook[] {
  const { telegram } = stage.standins;
  const bot = telegram.bot(BOT)!;
  const from = { id: 71_000 + n, is_bot: false, first_name: 'Mira' };
  const document = { file_id: `file-${n}`, file_unique_id: `u${n}`, file_name: text, mime_type: text };
  const messenger = (event: object) => onMessaging('messenger', n, event);
  const whatsapp = (id: string, message: object) =>
    onWhatsApp(n, 'Mira', { id: `wamid.${id}.${n}`, ...message });
  const chosen = { id: text, title: text, description: text };
  const attachment = { type: 'file', title: text, payload: { url: `https://files.example/${text}` } };
  return [
    {
      what: 'a tap on Telegram',
      ...telegram.update(bot, {
        callback_query: { id: `q${n}`, from, data: text, message: { message_id: n, ...onTelegram(n), text } },
      }),
    },
    {
      what: 'a file on Telegram',
      ...telegram.update(bot, {
        message: { message_id: 10_000 + n, ...onTelegram(n), from, document, caption: text },
      }),
    },
    { what: 'a tap on Messenger', ...messenger({ postback: { mid: `p${n}`, title: text, payload: text } }) },
    {
      what: 'a quick reply on Messenger',
      ...messenger({ message: { mid: `q${n}`, text, quick_reply: { payload: text } } }),
    },
    {
      what: 'a file on Messenger',
      ...messenger({ message: { mid: `f${n}`, attachments: [attachment] } }),
    },
    {
      what: 'a button on WhatsApp',
      ...whatsapp('b', { type: 'interactive', interactive: { type: 'button_reply', button_reply: chosen } }),
    },
    {
      what: 'a row of a list on WhatsApp',
      ...whatsapp('l', { type: 'interactive', interactive: { type: 'list_reply', list_reply: chosen } }),
    },
    {
      what: 'a button of a template on WhatsApp',
      ...whatsapp('t', { type: 'button', button: { payload: text, text } }),
    },
    {
      what: 'a file on WhatsApp',
      ...whatsapp('d', {
        type: 'document',
        document: { id: `d${n}`, filename: text, mime_type: text, caption: text },
      }),
    },
  ];
}

const clean = (text: string) => text.replaceAll('\0', '').toWellFormed();
const file = (bytes: string, name: string) =>
  stage.api.file<UploadPage>(
    `${CLIENT}/people/files?name=${encodeURIComponent(name.toWellFormed())}`,
    new TextEncoder().encode(bytes),
  );
let n = 0;

/**
 * Puts a text in everywhere somebody can, and looks that it is there as it was written, and that nothing of
 * ours was at fault.
 */
async function everywhere(text: string): Promise<void> {
  n++;
  const expected = clean(text);
  for (const { what, url, headers, body, address } of requests(text, n)) {
    const answer = await fetch(url, { method: 'POST', headers, body });
    expect({ what, status: answer.status }).toEqual({ what, status: 200 });
    const stored = await until(
      () =>
        stage.one<{ text: string; kind: string } | undefined>(
          `
            select e.body -> 'incoming' ->> 'text' as text, e.body -> 'incoming' ->> 'kind' as kind
            from event e join conversation c on c.id = e.conversation_id where c.address = $1`,
          [address],
        ),
      (row) => row !== undefined,
    );
    // A form has no way to write half a pair; its own way of writing is the platform's.
    if (stored!.kind === 'text')
      expect(stored!.text).toBe(what === 'sms' ? clean(text.toWellFormed()) : expected);
  }
  for (const { what, url, headers, body } of tapsAndFiles(text, n)) {
    const answer = await fetch(url, { method: 'POST', headers, body });
    expect({ what, status: answer.status }).toEqual({ what, status: 200 });
  }
  // The neighbour is answered all the while.
  const neighbour = String(75_000 + n);
  await stage.write(neighbour, 'sailings');
  await stage.hears(neighbour, 1);
  const statuses: Record<string, number> = {};
  const v1 = (method: string, path: string, body: unknown) =>
    fetch(`${stage.server.address}/v1${path}`, {
      method,
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
  const put = await v1('PUT', '/people', {
    by: { email: `h${n}@example.org` },
    firstName: text,
    lastName: text,
    fields: { town: text },
    tagsOn: [text],
    stated: text,
  });
  statuses.v1 = put.status;
  if (put.status === 200) {
    const { person } = (await put.json()) as { person: { id: string } };
    const kept = await stage.one<{ town: string }>(
      "select fields -> 'town' ->> 'value' as town from person where id = $1",
      [person.id],
    );
    expect(kept.town).toBe(expected);
    statuses.put = (
      await stage.api.raw('PUT', `${CLIENT}/people/${person.id}`, {
        firstName: text,
        fields: { notes: text },
        tagsOn: [text],
      })
    ).status;
  }
  statuses.find = (
    await stage.api.raw('GET', `${CLIENT}/people?q=${encodeURIComponent(text.toWellFormed().slice(0, 500))}`)
  ).status;
  statuses.where = (
    await stage.api.raw(
      'GET',
      `${CLIENT}/people?where=${encodeURIComponent(`town is "${text.toWellFormed().slice(0, 300)}"`)}`,
    )
  ).status;
  statuses.field = (
    await stage.api.raw('POST', `${CLIENT}/fields`, {
      key: text.slice(0, 40),
      type: 'text',
      name: text.slice(0, 60),
    })
  ).status;
  statuses.hook = (
    await fetch(hook, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ person: { email: text }, [text]: text }),
    })
  ).status;
  statuses.loop = (
    await stage.api.raw('POST', `${CLIENT}/loops/import`, {
      file: `format: dart-loop/1\nname: ${text}\nscenes: ${text}`,
    })
  ).status;
  statuses.named = (await stage.api.raw('POST', `${CLIENT}/loops`, { name: text.slice(0, 80) })).status;
  const talk = await stage.one<{ id: string }>('select id from conversation where address = $1', [neighbour]);
  statuses.inbox = (
    await stage.api.raw('POST', `${CLIENT}/conversations/${talk.id}/acts`, {
      do: 'write',
      text: text.slice(0, 500),
    })
  ).status;
  const faults = Object.entries(statuses).filter(([, status]) => status >= 500);
  const aside = await stage.one<{ count: number }>(
    "select count(*)::int as count from aside where kind in ('not stored', 'not decided')",
  );
  expect({ text: text.slice(0, 80), aside: aside.count }).toEqual({ text: text.slice(0, 80), aside: 0 });
  expect({ text: text.slice(0, 80), faults }).toEqual({ text: text.slice(0, 80), faults: [] });
}

describe('a stranger’s text', () => {
  test.each(FIXED.map((text) => [JSON.stringify(text.slice(0, 24)), text]))(
    '%s is text wherever it stands',
    async (_name, text) => {
      await everywhere(text);
    },
  );

  test('whatever it is made of', async () => {
    await fc.assert(fc.asyncProperty(hostile, everywhere), { numRuns: 12, interruptAfterTimeLimit: 60_000 });
  });

  test('in files of people of each format, every row that can be kept is', async () => {
    for (const text of FIXED.slice(0, 8)) {
      const cell = `"${clean(text).slice(0, 3_000).replaceAll('"', '""')}"`;
      for (const [name, bytes] of [
        ['rows.csv', `first name,town\n${cell},${cell}\nNora,Harwick\n`],
        [
          'lines.jsonl',
          `${JSON.stringify({ firstName: text.slice(0, 100), fields: { town: { type: 'text', value: text.slice(0, 3_000) } } })}\n${JSON.stringify({ firstName: 'Nora' })}\n`,
        ],
        [
          'cards.vcf',
          `BEGIN:VCARD\nVERSION:4.0\nFN:${text.slice(0, 60)}\nEND:VCARD\nBEGIN:VCARD\nVERSION:4.0\nFN:Nora\nEND:VCARD\n`,
        ],
      ] as const) {
        const upload = await file(bytes, `${name} ${text.slice(0, 20)}`);
        const task = await stage.api.post<TaskView>(`${CLIENT}/people/imports`, {
          uploadId: upload.id,
          encoding: upload.encoding,
          separator: upload.separator,
          uses: upload.columns.map((column) => column.use),
          known: 'file wins',
          dry: false,
          stated: 'a test',
        });
        const ended = await stage.ended(CLIENT, task.id);
        expect({ name, state: ended.state, made: (ended.counts.made ?? 0) >= 1 }).toEqual({
          name,
          state: 'done',
          made: true,
        });
      }
    }
  });

  test('in what another system answers', async () => {
    for (const [at, raw] of [
      `{"id": "${'\\u0000'}x"}`,
      '{"id": "\\\\u0000"}',
      '['.repeat(20_000) + ']'.repeat(20_000),
      '{"a":"\\ud800"}',
      '\u0000',
      `{"n": 1e999}`,
    ].entries()) {
      stage.standins.outside.answer({
        host: 'odd.example',
        status: 200,
        body: {},
        raw,
        headers: { 'content-type': 'application/json' },
        slowMs: 0,
      });
      const keyword = `odd${at}`;
      await stage.publish(
        `{ format: dart-loop/1, name: Odd ${at}, cues: [{ kind: keyword, words: [${keyword}], match: exactly }], scenes: [{ name: One, steps: [{ kind: send out, address: "https://odd.example/x", reply: [{ from: id, field: notes }] }, { kind: say, text: Done. }] }] }`,
      );
      await stage.write(String(76_000 + at), keyword);
      expect(await stage.hears(String(76_000 + at), 1)).toEqual(['Done.']);
    }
  });
});

describe('what no request can be', () => {
  test.each([
    [
      'a date out of range',
      'POST',
      '/loops/0194f7b2-0000-7000-8000-000000000000/publish',
      { revision: 1, at: '9999-12-31T23:59:59+99:99' },
    ],
    [
      'a revision beyond counting',
      'POST',
      '/loops/0194f7b2-0000-7000-8000-000000000000/publish',
      { revision: 9e15 },
    ],
    ['a number where an id is due', 'GET', '/people/12345', undefined],
    ['an id of a hundred digits', 'GET', `/people/${'9'.repeat(100)}`, undefined],
    ['an id of a line of a hundred digits', 'GET', `/lines/${'9'.repeat(100)}/aside`, undefined],
    ['a percent sign that begins nothing', 'GET', '/people/%zz', undefined],
    ['a page key that is none', 'GET', '/people?after=AAAA', undefined],
    [
      'a page key of another time',
      'GET',
      `/people?after=${Buffer.from('-271821-04-20T00:00:00.000Z|x').toString('base64url')}`,
      undefined,
    ],
    ['a task that is a number', 'POST', '/tasks/1/stop', {}],
  ])('%s is refused with a sentence', async (_what, method, path, body) => {
    const { status, body: said } = await stage.api.raw(method, `${CLIENT}${path}`, body);
    expect(status).toBeGreaterThanOrEqual(400);
    expect(status).toBeLessThan(500);
    expect((said as { detail: string }).detail).toMatch(/^[^]{10,}\.$/);
  });

  test('an unknown content encoding is 415, a body nested too deep is 400', async () => {
    const headers = { cookie: stage.api.cookie, 'content-type': 'application/json' };
    const post = (more: object, body: string) =>
      fetch(`${stage.server.address}/api${CLIENT}/loops`, {
        method: 'POST',
        headers: { ...headers, ...more },
        body,
      });
    expect((await post({ 'content-encoding': 'zip' }, '{}')).status).toBe(415);
    expect((await post({ 'content-type': 'application/json; charset=klingon' }, '{}')).status).toBe(415);
    const deep = await post({}, `{"name": ${'['.repeat(5_000)}${']'.repeat(5_000)}}`);
    expect(deep.status).toBe(400);
    expect(((await deep.json()) as { detail: string }).detail).toContain('nested');
  });
});

describe('one bad part', () => {
  const send = (kind: 'messenger' | 'instagram' | 'whatsapp', entries: object[]) => {
    const { headers, body } = stage.standins.graph.signed(kind, entries);
    const { subscriptions, accounts } = stage.standins.graph;
    const url =
      kind === 'whatsapp'
        ? accounts.get(`whatsapp:${GRAPH.whatsapp}`)!.webhook
        : subscriptions.get(kind === 'messenger' ? 'page' : kind);
    return fetch(url!, { method: 'POST', headers, body });
  };
  const isThere = (address: string) =>
    until(
      () =>
        stage.one<{ there: boolean }>(
          `
            select exists (select from event e join conversation c on c.id = e.conversation_id
              where c.address = $1) as there`,
          [address],
        ),
      ({ there }) => there,
    );

  test.each(['messenger', 'instagram'] as const)(
    'of a request on %s loses nothing else of it',
    async (kind) => {
      const id = GRAPH[kind];
      const said = (who: string, mid: string) => ({
        sender: { id: who },
        recipient: { id },
        timestamp: Date.now(),
        message: { mid, text: 'hello' },
      });
      const entries = [
        'no entry',
        { id, changes: 'none' },
        {
          id,
          changes: [7, { field: 3 }, { field: 'unheard of', value: {} }],
          messaging: [null, { sender: 1 }, said(`92001${kind}`, `m1_${kind}`)],
        },
        {
          id,
          time: 9e15,
          messaging: [
            { ...said(`92002${kind}`, `m2_${kind}`), timestamp: 9e15 },
            { ...said(`92003${kind}`, `m3_${kind}`), timestamp: -271_821e12 },
          ],
        },
        {
          id,
          messaging: [
            said('9'.repeat(5_000), `m4_${kind}`),
            said(`92004${kind}`, `${'m'.repeat(20_000)}_${kind}`),
          ],
        },
      ];
      expect((await send(kind, entries as object[])).status).toBe(200);
      for (const who of [`92001${kind}`, `92002${kind}`, `92003${kind}`, `92004${kind}`]) await isThere(who);
    },
  );

  test('of a request on WhatsApp loses nothing else of it', async () => {
    const value = (from: string) => ({
      metadata: { phone_number_id: GRAPH.whatsapp },
      contacts: [{}, null, { wa_id: from, profile: { name: 'Ada' } }],
      messages: [
        3,
        { from, id: `wamid.bad.${from}`, timestamp: '9e15', type: 'text', text: { body: 'hello' } },
      ],
      statuses: [{}, 'x'],
    });
    const entries = [
      7,
      { id: 'waba' },
      {
        id: 'waba',
        changes: ['x', { field: 'messages' }, { field: 'messages', value: value('447700930001') }],
      },
    ];
    expect((await send('whatsapp', entries as object[])).status).toBe(200);
    await isThere('+447700930001');
  });

  test('is read on the line’s page with everything of people masked, and is tried again there', async () => {
    const lines = await stage.api.get<LineRow[]>('/clients/bramble-row-nursery/lines');
    const line = lines.find((each) => each.channel === 'whatsapp')!;
    const page = () => stage.api.get<AsidePage>(`/clients/bramble-row-nursery/lines/${line.id}/aside`);
    const { items, total } = await page();
    expect(total).toBeGreaterThanOrEqual(5);
    expect(items[0]!.reason.length).toBeGreaterThan(10);
    expect(JSON.stringify(items.map((item) => item.masked))).not.toMatch(/447700930001|Ada|hello/);
    // What is tried again without anything having changed lies aside still.
    await stage.api.post(`/clients/bramble-row-nursery/lines/${line.id}/aside/again`, {});
    await until(page, (now) => now.items.every((item) => item.tries === 2 && item.againAt === null));
    expect((await page()).total).toBe(total);
  });
});

describe('an event that cannot be decided', () => {
  const who = '78001';
  test('is set aside alone: the rest of its conversation, and everybody else in the same batch, is answered', async () => {
    // No program can read these: they stand for any fault that deciding may meet.
    await stage.write(who, 'sailings');
    await stage.hears(who, 1);
    const talk = await stage.one<{ id: string }>('select id from conversation where address = $1', [who]);
    for (const body of [
      { incoming: null },
      { incoming: { kind: 'tap' } },
      { incoming: { kind: 'date', loopId: {}, cueId: 7 } },
    ])
      await stage.db.query(
        `
          insert into pending (client_id, line_id, conversation_id, ready_at, happened_at, body)
          select client_id, line_id, id, now(), now(), $2 from conversation where id = $1`,
        [talk.id, JSON.stringify(body)],
      );
    const began = Date.now();
    await Promise.all([
      stage.write(who, 'b'),
      ...Array.from({ length: 20 }, (_, at) => stage.write(String(78_100 + at), 'sailings')),
    ]);
    await Promise.all(Array.from({ length: 20 }, (_, at) => stage.hears(String(78_100 + at), 1)));
    await stage.hears(who, 2);
    expect(Date.now() - began).toBeLessThan(15_000);
    expect(stage.heard(who).at(-1)).toMatch(/^Fine\./);
    const { set } = await stage.one<{ set: number }>(
      "select count(*)::int as set from aside where kind = 'not decided' and conversation_id = $1",
      [talk.id],
    );
    expect(set).toBeGreaterThanOrEqual(1);
    const page = await stage.api.get<ConversationPage>(`${CLIENT}/conversations/${talk.id}`);
    expect(JSON.stringify(page.entries)).toContain('This could not be processed');
    const today = await stage.api.get<TodayPage>('/today');
    expect(today.attention.map(({ words }) => words).join('\n')).toContain('could not be processed');
  });
});
