import type { ConversationPage, KeptFile, LineRow, MenusPage } from '@dart-loop/contract';
import sharp from 'sharp';
import type { PhoneDo, PhoneView } from '../../standins/src/phone';
import { graphAccess } from '../../standins/src/graph/access';
import type { Mood } from '../../standins/src/mood';
import { WoundClock } from '../src/platform/clock';
import { Stage, until } from './support/stage';

const HOUR = 3_600_000;
const MINUTE = 60_000;
const clock = new WoundClock(Date.now());
let stage: Stage;
let webhooks: [string, string][];
beforeAll(async () => {
  stage = await Stage.open({ clock, limits: false });
  for (const line of [
    'messenger:100220011',
    'messenger:100220022',
    'instagram:178410011',
    'whatsapp:106540022',
  ])
    standin(line).posts.splice(0, 0, { id: `${line.split(':')[1]}_9`, text: 'A new post', at: clock.now() });
  webhooks = [...stage.standins.graph.subscriptions];
  await wind(0);
});
// The weeks that are wound through here would end the session.
beforeEach(async () => void (stage.api = await stage.as('owner')));
// A test that fails leaves nothing behind that makes the next ones fail.
afterEach(() => {
  for (const account of stage.standins.graph.accounts.values()) account.mood = 'well';
  for (const [object, address] of webhooks) stage.standins.graph.subscriptions.set(object, address);
});
afterAll(() => stage.close());

const standin = (line: string) => stage.standins.graph.accounts.get(line)!;
const CLIENT = { orrery: 'orrery-picture-house', bramble: 'bramble-row-nursery' };
const MS = 'messenger:100220022';
const WA = 'whatsapp:106540022';
const IG = 'instagram:178410011';

async function wind(ms: number): Promise<void> {
  clock.wind(clock.now() + ms);
  stage.standins.clock.wind(clock.now());
  await stage.server.path.settled();
}
const does = (line: string, who: string, what: PhoneDo) => stage.standins.graph.act(line, who, what);
const writes = (line: string, who: string, text: string, name = 'Mira Leask') =>
  does(line, who, { do: 'write', name, text });
const sees = (line: string, who: string): PhoneView => stage.standins.graph.look(line, who);
const heard = (line: string, who: string): string[] =>
  sees(line, who)
    .messages.filter((message) => message.from === 'line')
    .map((message) => message.text);
/** Waits for so many messages, the clock moving on. */
const hears = (line: string, who: string, count: number) =>
  until(
    async () => {
      clock.wind(clock.now() + 200);
      stage.standins.clock.wind(clock.now());
      return heard(line, who);
    },
    (all) => all.length >= count,
  );
async function taps(line: string, who: string, label: string): Promise<void> {
  const message = sees(line, who).messages.findLast((each) =>
    each.buttons.some((button) => button.text === label),
  );
  const button = message?.buttons.find((each) => each.text === label);
  if (!button)
    throw new Error(`there is no button “${label}” among ${JSON.stringify(sees(line, who).messages.at(-1))}`);
  await does(line, who, { do: 'tap', messageId: message!.id, data: button.data! });
}
const conversation = async (client: string, address: string): Promise<ConversationPage> => {
  const { id } = await until(
    () => stage.one<{ id: string }>('select id from conversation where address = $1', [address]),
    (row) => Boolean(row),
  );
  return stage.api.get<ConversationPage>(`/clients/${client}/conversations/${id}`);
};
const outs = (page: ConversationPage) =>
  page.entries.flatMap((entry) => (entry.kind === 'out' ? [entry] : []));
const lineOf = async (client: string, channel: string) =>
  (await stage.api.get<LineRow[]>(`/clients/${client}/lines`)).find((each) => each.channel === channel)!;

describe('windows', () => {
  test('what may not go is held with its reason, and goes out when the person writes', async () => {
    const who = '+447700900501';
    await writes(WA, who, 'plants');
    await hears(WA, who, 1);
    await taps(WA, who, 'Half shade');
    await hears(WA, who, 2);
    // The nudge after five hours is within the window of a day; the person is silent for longer, then staff
    // write.
    await wind(30 * HOUR);
    const page = await conversation(CLIENT.bramble, who);
    await stage.api.post(`/clients/${CLIENT.bramble}/conversations/${page.id}/acts`, {
      do: 'write',
      text: 'Are you still looking?',
    });
    const held = await until(
      async () => outs(await conversation(CLIENT.bramble, who)).at(-1)!,
      (entry) => entry.status === 'held',
    );
    expect(held.failure!.reason).toMatch(/WhatsApp lets a line write for 24 h/);
    expect(heard(WA, who)).not.toContain('Are you still looking?');
    await writes(WA, who, 'yes');
    expect(await hears(WA, who, 4)).toContain('Are you still looking?');
  });

  test('on Messenger a person of the team may still write for seven days, and the loop may not', async () => {
    const who = '24100000000501';
    await writes(MS, who, 'plants');
    await hears(MS, who, 1);
    await wind(48 * HOUR);
    const page = await conversation(CLIENT.bramble, who);
    await stage.api.post(`/clients/${CLIENT.bramble}/conversations/${page.id}/acts`, {
      do: 'write',
      text: 'By hand.',
    });
    const all = await until(
      async () => {
        clock.wind(clock.now() + 200);
        return heard(MS, who);
      },
      (texts) => texts.includes('By hand.'),
    );
    expect(all.at(-1)).toBe('By hand.');
    expect(outs(await conversation(CLIENT.bramble, who)).at(-1)).toMatchObject({ via: 'by hand, late' });
  });

  test('three days are open after a click on an ad on WhatsApp', async () => {
    const who = '+447700900502';
    await does(WA, who, { do: 'click ad', name: 'Lowen Marsh', adId: '120330022001' });
    expect((await hears(WA, who, 1))[0]).toMatch(/find a plant/);
    await wind(4 * HOUR);
    await wind(2 * HOUR);
    expect((await hears(WA, who, 2))[1]).toMatch(/Two questions are left/);
    const { standing } = await stage.one<{ standing: { openUntil: number } }>(
      'select standing from conversation where address = $1',
      [who],
    );
    expect(standing.openUntil - clock.now()).toBeGreaterThan(60 * HOUR);
  });
});

describe('templates', () => {
  const FILE = (name: string, whenShut: string) =>
    [
      'format: dart-loop/1',
      `name: ${name}`,
      'lines: []',
      `cues: [{ kind: keyword, words: [${name.toUpperCase()}], match: exactly }]`,
      'scenes:',
      '  - id: one',
      '    name: One',
      '    steps:',
      '      - { kind: say, text: At once }',
      '      - { kind: wait, for: 3d }',
      `      - { kind: say, text: "Still looking?", choices: [{ label: Yes, to: go-on }, { label: No, to: end }], whenShut: ${whenShut} }`,
      '  - id: go-on',
      '    name: Go on',
      '    steps:',
      '      - { kind: say, text: Good. }',
    ].join('\n');
  const USES = "{ do: template, name: still_looking, parameters: ['{{ person.first_name }}'] }";

  test('where the window is shut an approved template goes, and its buttons lead on', async () => {
    await stage.publish(FILE('templated', USES), CLIENT.bramble);
    const who = '+447700900570';
    await writes(WA, who, 'templated');
    await hears(WA, who, 1);
    await wind(73 * HOUR);
    const all = await hears(WA, who, 2);
    expect(all[1]).toBe(
      'Hello Mira, your plant is still waiting to be found. Two questions are left. Go on?',
    );
    expect(outs(await conversation(CLIENT.bramble, who)).at(-1)).toMatchObject({
      status: 'sent',
      via: 'template',
    });
    await taps(WA, who, 'Go on');
    expect((await hears(WA, who, 3))[2]).toBe('Good.');
  });

  test('one with a picture above its text goes with the client’s file', async () => {
    const path = `/clients/${CLIENT.bramble}`;
    const png = await sharp({ create: { width: 60, height: 40, channels: 3, background: '#4a7' } })
      .png()
      .toBuffer();
    const { key } = await stage.api.file<KeptFile>(`${path}/files?name=Spring border`, png);
    const account = standin(WA);
    account.templates.push({
      name: 'spring_border',
      language: 'en',
      status: 'PENDING',
      category: 'MARKETING',
      components: [
        { type: 'HEADER', format: 'IMAGE' },
        { type: 'BODY', text: 'The border is out.' },
      ],
    });
    await stage.standins.graph.decideOn(account, 'spring_border', 'APPROVED');
    const line = () => lineOf(CLIENT.bramble, 'whatsapp');
    await until(line, ({ templates }) => templates.some(({ name }) => name === 'spring_border'));
    const uses = (more: string) => `{ do: template, name: spring_border${more} }`;
    const goes = async (name: string, whenShut: string, who: string) => {
      await stage.publish(FILE(name, whenShut).replace(/, choices: .*\], when/, ', when'), CLIENT.bramble);
      await writes(WA, who, name);
      await hears(WA, who, 1);
      await wind(73 * HOUR);
    };
    await goes('bordered', uses(`, file: '{{ file.${key} }}'`), '+447700900574');
    await hears(WA, '+447700900574', 2);
    const { messages } = stage.standins.graph.look(WA, '+447700900574');
    expect(messages.at(-1)).toMatchObject({
      text: 'The border is out.',
      media: expect.stringMatching(/\/files\/.*spring_border\.jpg$/) as string,
    });
    await goes('unbordered', uses(''), '+447700900575');
    const { entries } = await until(
      () => conversation(CLIENT.bramble, '+447700900575'),
      (page) => outs(page).at(-1)!.status === 'held',
    );
    expect(entries.flatMap((entry) => (entry.kind === 'stage' ? entry.words : []))).toContain(
      'It cannot go as a template: the template “spring_border” shows a picture above its text, and the step gives none.',
    );
  });

  test('one that is not approved any more is held with the reason, and goes when the platform has changed its mind', async () => {
    await stage.publish(FILE('paused', USES), CLIENT.bramble);
    const account = standin(WA);
    await stage.standins.graph.decideOn(account, 'still_looking', 'PAUSED');
    const line = () => lineOf(CLIENT.bramble, 'whatsapp');
    const status = async () => (await line()).templates.find((each) => each.name === 'still_looking')?.status;
    await until(status, (each) => each === 'paused');
    const who = '+447700900571';
    await writes(WA, who, 'paused');
    await hears(WA, who, 1);
    await wind(73 * HOUR);
    const { entries } = await until(
      () => conversation(CLIENT.bramble, who),
      (page) => outs(page).at(-1)!.status === 'held',
    );
    const words = entries.flatMap((entry) => (entry.kind === 'stage' ? entry.words : []));
    expect(words).toContain(
      'It cannot go as a template: the template “still_looking” is paused, and only an approved one may go.',
    );
    expect((await line()).failures.find(({ waits }) => waits)).toMatchObject({
      reason: expect.stringMatching(/^Held back: WhatsApp lets a line write for 24 h/) as string,
      remedy: 'It goes out when the person writes.',
    });
    await stage.standins.graph.decideOn(account, 'still_looking', 'APPROVED');
    await until(status, (each) => each === 'approved');
  });

  test('a step that would rather say nothing is dropped with its reason', async () => {
    await stage.publish(FILE('dropped', '{ do: drop }'), CLIENT.bramble);
    const who = '+447700900572';
    await writes(WA, who, 'dropped');
    await hears(WA, who, 1);
    await wind(73 * HOUR);
    const last = await until(
      async () => outs(await conversation(CLIENT.bramble, who)).at(-1)!,
      (entry) => entry.status === 'failed',
    );
    expect(last.failure!.reason).toMatch(/^Dropped: WhatsApp lets a line write for 24 h/);
    const { failures } = await lineOf(CLIENT.bramble, 'whatsapp');
    expect(failures.find(({ waits }) => !waits)!.reason).toBe(last.failure!.reason);
    await writes(WA, who, 'hello');
    await wind(1_000);
    expect(heard(WA, who)).not.toContain('Still looking?');
  });
});

describe('another line', () => {
  test('of the same person, known by their number, says what may not go on the first', async () => {
    const who = '+447700900590';
    const wa = 'whatsapp:106540011';
    await stage.write(who, 'sailings');
    await until(
      () => stage.heard(who),
      (all) => all.length === 1,
    );
    await stage.publish(
      [
        'format: dart-loop/1',
        'name: Elsewhere',
        'lines: [whatsapp]',
        'cues: [{ kind: keyword, words: [ELSEWHERE], match: exactly }]',
        'scenes:',
        '  - id: one',
        '    name: One',
        '    steps:',
        '      - { kind: say, text: At once }',
        '      - { kind: wait, for: 3d }',
        '      - { kind: say, text: The 9:40 is cancelled., whenShut: { do: other line } }',
      ].join('\n'),
    );
    await writes(wa, who, 'elsewhere');
    await hears(wa, who, 1);
    const people = await stage.db.query('select distinct person_id from conversation where address = $1', [
      who,
    ]);
    expect(people.rows).toHaveLength(1);
    // At noon, so that no quiet hours hold it.
    await wind(96 * HOUR - ((clock.now() + 12 * HOUR) % (24 * HOUR)));
    const texts = await until(
      async () => {
        clock.wind(clock.now() + 1_000);
        return stage.heard(who);
      },
      (all) => all.at(-1) === 'The 9:40 is cancelled.',
    );
    expect(texts.at(-1)).toBe('The 9:40 is cancelled.');
    expect(heard(wa, who)).toEqual(['At once']);
    const { rows } = await stage.db.query<{ notes: { code: string }[] }>(
      'select d.notes from decision d join conversation c on c.id = d.conversation_id where c.address = $1',
      [who],
    );
    const codes = rows.flatMap((row) => row.notes.map((note) => note.code));
    expect(codes).toEqual(expect.arrayContaining(['said elsewhere', 'said for']));
  });
});

describe('comments', () => {
  const comments = (line: string, who: string, text: string, postId: string, under: string | null = null) =>
    does(line, who, { do: 'comment', name: 'Dara Thistlewood', postId, text, under });
  test('a comment is answered once in private and once in public, in turn, and then nothing goes until the person writes', async () => {
    const people = ['17800000000601', '17800000000602'];
    for (const who of people) {
      await comments(IG, who, 'COMET please', '178410011_9');
      await hears(IG, who, 1);
      await comments(IG, who, 'COMET again', '178410011_9');
    }
    await stage.server.path.settled();
    await wind(21 * HOUR);
    await wind(30 * HOUR);
    for (const who of people) expect(heard(IG, who)).toHaveLength(1);
    const post = sees(IG, people[0]!).posts.find((each) => each.id === '178410011_9')!;
    const replies = post.comments.map((comment) => comment.replies);
    expect(replies.map((each) => each.length)).toEqual([1, 0, 1, 0]);
    expect(replies[0]).not.toEqual(replies[2]);
    const page = await conversation(CLIENT.orrery, people[0]!);
    expect(page.entries[0]).toMatchObject({
      kind: 'in',
      how: 'commented',
      words: 'COMET please',
      post: 'A new post',
    });
    expect(outs(page)[0]).toMatchObject({ via: expect.stringMatching(/reply/) as string });
    // What was held back meanwhile goes once they write.
    await writes(IG, people[0]!, 'hello');
    expect((await hears(IG, people[0]!, 2)).length).toBeGreaterThanOrEqual(2);
  });

  test('public answers under a post are said in turn, also to people who comment at once', async () => {
    await stage.publish(
      [
        'format: dart-loop/1',
        'name: Turns',
        'cues:',
        '  - { kind: comment, with: [turns], publicReplies: [One., Two., Three.] }',
        'scenes: [{ name: One, steps: [{ kind: say, text: First. }, { kind: say, text: Second., choices: [{ label: Go on, to: end }] }] }]',
      ].join('\n'),
      CLIENT.orrery,
    );
    const people = Array.from({ length: 6 }, (_, at) => `1780000000062${at}`);
    await Promise.all(people.map((who) => comments(IG, who, 'turns please', '178410011_9')));
    for (const who of people) await hears(IG, who, 1);
    const said = () =>
      sees(IG, people[0]!)
        .posts.find((each) => each.id === '178410011_9')!
        .comments.filter((comment) => people.includes(comment.who))
        .flatMap((comment) => comment.replies);
    await until(said, (all) => all.length === 6);
    expect([...said()].sort()).toEqual(['One.', 'One.', 'Three.', 'Three.', 'Two.', 'Two.']);
  });

  test('what a loop had held back is dropped when another comment starts another loop', async () => {
    const who = '17800000000630';
    await comments(IG, who, 'turns', '178410011_9');
    expect(await hears(IG, who, 1)).toEqual(['First.']);
    await comments(IG, who, 'tickets', '178410011_1');
    await hears(IG, who, 2);
    await writes(IG, who, 'hello');
    await wind(5_000);
    await stage.nothingLeft();
    expect(heard(IG, who).join()).not.toContain('Second.');
    const dropped = outs(await conversation(CLIENT.orrery, who)).find((out) =>
      out.body.text.startsWith('Second.'),
    );
    expect(dropped).toMatchObject({
      status: 'failed',
      failure: { reason: expect.stringMatching(/given way to another/) as string },
    });
  });

  test('a tap on the private answer goes on with the loop', async () => {
    const who = '17800000000603';
    await comments(IG, who, 'tickets', '178410011_9');
    await hears(IG, who, 1);
    await taps(IG, who, 'Friday at 20:15');
    expect((await hears(IG, who, 2))[1]).toMatch(/How many seats/);
  });

  test('comments of the account itself, edited, removed and nested ones', async () => {
    await comments('instagram:178410011', '178410011', 'COMET', '178410011_9');
    const who = '17800000000604';
    await comments(IG, who, 'nothing of note', '178410011_9');
    const mine = () => standin(IG).comments.findLast((comment) => comment.who === who)!;
    await does(IG, who, { do: 'edit comment', commentId: mine().id, text: 'COMET after all' });
    await does(IG, who, { do: 'remove comment', commentId: mine().id });
    await stage.server.path.settled();
    await wind(1_000);
    expect(heard(IG, '178410011')).toEqual([]);
    expect(heard(IG, who).length).toBeLessThanOrEqual(1);
    const { entries } = await conversation(CLIENT.orrery, who);
    expect(entries.some((entry) => entry.kind === 'stage' && entry.words.join(' ').includes('removed'))).toBe(
      true,
    );
  });
});

describe('the person’s side', () => {
  test('a block on WhatsApp stops everything; the status of a message is shown', async () => {
    const who = '+447700900510';
    await writes(WA, who, 'plants');
    await hears(WA, who, 1);
    const sent = await until(
      async () => outs(await conversation(CLIENT.bramble, who))[0]!,
      (entry) => entry.readAt !== null,
    );
    expect(sent).toMatchObject({ status: 'sent', deliveredAt: expect.any(String) as string });
    await does(WA, who, { do: 'block', is: true });
    await until(
      () => conversation(CLIENT.bramble, who),
      (page) => page.optedOut,
    );
    await wind(6 * HOUR);
    expect(heard(WA, who)).toHaveLength(1);
  });

  test('the team’s answer from the platform’s own inbox stands in the conversation, and the loop holds still', async () => {
    const who = '24100000000511';
    await writes(MS, who, 'plants');
    await hears(MS, who, 1);
    await does(MS, who, { do: 'answer as the account', text: 'I take this one.' });
    const page = await until(
      () => conversation(CLIENT.bramble, who),
      (each) => each.held !== null,
    );
    expect(
      page.entries.some(
        (entry) => entry.kind === 'in' && entry.how === 'elsewhere' && entry.words === 'I take this one.',
      ),
    ).toBe(true);
    await writes(MS, who, 'thank you');
    await stage.server.path.settled();
    expect(heard(MS, who).filter((text) => text !== 'I take this one.')).toHaveLength(1);
  });
});

describe('webhooks', () => {
  test('the subscription check answers the challenge, and only for the right word', async () => {
    const { webhook } = await lineOf(CLIENT.bramble, 'messenger');
    const ask = (word: string) =>
      fetch(`${webhook}?hub.mode=subscribe&hub.verify_token=${word}&hub.challenge=4711`);
    expect((await ask('wrong')).status).toBe(403);
    expect((await fetch(webhook)).status).toBe(404);
  });

  test('one request with entries of two pages, one unknown and one that makes no sense', async () => {
    const url = stage.standins.graph.subscriptions.get('page')!;
    const entry = (id: string, who: string, text: string) => ({
      id,
      time: clock.now(),
      messaging: [
        {
          sender: { id: who },
          recipient: { id },
          timestamp: clock.now(),
          message: { mid: `m_multi_${id}`, text },
        },
      ],
    });
    for (const [line, who] of [
      ['messenger:100220011', '24100000000521'],
      ['messenger:100220022', '24100000000522'],
    ] as const)
      await does(line, who, { do: 'block', is: false });
    standin('messenger:100220011').threads.get('24100000000521')!.heard = clock.now();
    standin('messenger:100220022').threads.get('24100000000522')!.heard = clock.now();
    const { headers, body } = stage.standins.graph.signed('messenger', [
      entry('100220011', '24100000000521', 'programme'),
      entry('100220022', '24100000000522', 'plants'),
      entry('999999', '24100000000523', 'nobody'),
      { nonsense: true },
    ]);
    const asideBefore = await stage.one<{ count: number }>('select count(*)::int as count from aside');
    const post = () => fetch(url, { method: 'POST', headers, body });
    expect((await post()).status).toBe(200);
    // The same again, as a platform does that has missed the answer.
    expect((await post()).status).toBe(200);
    expect(
      (
        await fetch(url, {
          method: 'POST',
          headers: { ...headers, 'x-hub-signature-256': 'sha256=00' },
          body,
        })
      ).status,
    ).toBe(401);
    expect((await hears('messenger:100220011', '24100000000521', 1))[0]).toMatch(/This week/);
    expect((await hears('messenger:100220022', '24100000000522', 1))[0]).toMatch(/find a plant/);
    await wind(1_000);
    expect(heard('messenger:100220011', '24100000000521')).toHaveLength(1);
    const asideAfter = await stage.one<{ count: number }>('select count(*)::int as count from aside');
    expect(asideAfter.count - asideBefore.count).toBeGreaterThanOrEqual(2);
  });
});

describe('causes of failure', () => {
  const CAUSES: [string, string, string, Mood, RegExp, RegExp][] = [
    ['an expired token', MS, 'messenger', '401', /token has expired/, /Make a new token/],
    [
      'no access to messages',
      MS,
      'messenger',
      'no access',
      /does not let this program/,
      /allow access to messages/,
    ],
    ['a block of the account', MS, 'messenger', 'blocked', /blocked the account/, /quality page/],
    ['a fault of the platform', MS, 'messenger', '500', /fault/, /tried again/],
    ['an unregistered number', WA, 'whatsapp', 'unregistered', /not registered/, /Register the number/],
    ['an expired token on WhatsApp', WA, 'whatsapp', '401', /token has expired/, /Make a new token/],
  ];
  test.each(CAUSES)(
    '%s is said on the line with its remedy, and sending goes on by itself',
    async (cause, line, channel, is, reason, remedy) => {
      const number = String(530 + CAUSES.findIndex(([each]) => each === cause));
      const who = channel === 'whatsapp' ? `+447700900${number}` : `24100000000${number}`;
      standin(line).mood = is;
      await writes(line, who, 'plants');
      const failing = await until(
        () => lineOf(CLIENT.bramble, channel),
        (row) => row.state === 'failing',
      );
      expect(failing.failure!.reason).toMatch(reason);
      expect(failing.failure!.remedy).toMatch(remedy);
      standin(line).mood = 'well';
      await until(
        async () => {
          clock.wind(clock.now() + 5_000);
          stage.standins.clock.wind(clock.now());
          return heard(line, who);
        },
        (all) => all.length === 1,
      );
      await until(
        () => lineOf(CLIENT.bramble, channel),
        (row) => row.state === 'connected' && row.held === 0,
      );
      expect(heard(line, who)).toHaveLength(1);
    },
  );

  test('a webhook that is not subscribed any more is noticed by itself, and mended by renewing the line', async () => {
    standin(MS).mood = 'not subscribed';
    const row = () => lineOf(CLIENT.bramble, 'messenger');
    const failing = await until(row, (each) => each.state === 'failing');
    expect(failing.failure!.reason).toMatch(/its webhook is not subscribed/);
    await stage.api.post(`/clients/${CLIENT.bramble}/lines`, {
      channel: 'messenger',
      renews: failing.id,
      token: graphAccess('messenger', '100220022').token,
      appId: '',
      appSecret: '',
    });
    expect((await row()).state).toBe('connected');
    await writes(MS, '24100000000541', 'plants');
    expect(await hears(MS, '24100000000541', 1)).toHaveLength(1);
  });

  test('an account that is not tied to its page any more is noticed by itself, and so is that it is again', async () => {
    standin(IG).mood = 'untied';
    const row = () => lineOf(CLIENT.orrery, 'instagram');
    expect((await until(row, (each) => each.state === 'failing')).failure!.remedy).toMatch(
      /tie the Instagram account/,
    );
    standin(IG).mood = 'well';
    await until(row, (each) => each.state === 'connected');
  });

  test('too many calls slow a line down and do not make it fail', async () => {
    standin(MS).mood = '429';
    const who = '24100000000540';
    await writes(MS, who, 'plants');
    await until(
      () => stage.one<{ attempts: number }>('select m.attempts from message m where m.address = $1', [who]),
      (row) => row?.attempts > 0,
    );
    // Nor does it when it is asked whether it works, by itself or by hand.
    const before = standin(MS).asked;
    await until(
      async () => standin(MS).asked - before,
      (count) => count >= 2,
    );
    const { id } = await lineOf(CLIENT.bramble, 'messenger');
    await expect(stage.api.post(`/clients/${CLIENT.bramble}/lines/${id}/test`, {})).rejects.toThrow(
      /more than Messenger allows.*Test the line again in a minute/,
    );
    expect((await lineOf(CLIENT.bramble, 'messenger')).state).toBe('connected');
    standin(MS).mood = 'well';
    await until(
      async () => {
        clock.wind(clock.now() + 5_000);
        stage.standins.clock.wind(clock.now());
        return heard(MS, who);
      },
      (all) => all.length === 1,
    );
  });

  test('a test of the line names what is wrong with the account', async () => {
    const test = async (client: string, channel: string) =>
      (
        await stage.api.post<LineRow>(
          `/clients/${client}/lines/${(await lineOf(client, channel)).id}/test`,
          {},
        )
      ).failure;
    standin(IG).mood = 'untied';
    expect((await test(CLIENT.orrery, 'instagram'))!.reason).toMatch(/No Instagram business account is tied/);
    standin(IG).mood = 'no access';
    expect((await test(CLIENT.orrery, 'instagram'))!.remedy).toMatch(/allow access to messages/);
    standin(IG).mood = 'well';
    expect(await test(CLIENT.orrery, 'instagram')).toBeNull();
    const address = stage.standins.graph.subscriptions.get('page')!;
    stage.standins.graph.subscriptions.set('page', 'https://elsewhere.example/hook');
    expect((await test(CLIENT.bramble, 'messenger'))!.reason).toMatch(/another address: https:\/\/elsewhere/);
    stage.standins.graph.subscriptions.set('page', address);
    expect(await test(CLIENT.bramble, 'messenger')).toBeNull();
  });
});

describe('lead forms', () => {
  const submit = (answers: Record<string, string>) =>
    stage.standins.graph.submit(standin(MS), '55500001', '120330022001', {
      full_name: 'Wren Tidewell',
      ...answers,
    });
  const aside = () =>
    stage
      .one<{ reason: string }>('select reason from aside order by id desc limit 1')
      .then((row) => row?.reason ?? '');

  test('are met by telephone number on the line that hears them, with their answers kept and a template to begin', async () => {
    await submit({ phone_number: '07700 900580', work_email: 'wren@example.org' });
    expect(await until(aside, (reason) => reason.includes('55500001'))).toMatch(
      /no live loop hears the lead form 55500001/,
    );
    await stage.publish(
      [
        'format: dart-loop/1',
        'name: Leads',
        'lines: []',
        'cues:',
        '  - { kind: lead form, forms: ["55500001"], fields: { work_email: email }, optIn: Bramble Row may write to me about plants. }',
        'scenes:',
        '  - id: one',
        '    name: One',
        '    steps:',
        "      - { kind: say, text: Still looking?, choices: [{ label: Yes, to: two }, { label: No, to: end }], whenShut: { do: template, name: still_looking, parameters: ['{{ person.first_name }}'] } }",
        '  - id: two',
        '    name: Two',
        '    steps:',
        "      - { kind: say, text: 'Noted {{ person.email }}.' }",
      ].join('\n'),
      CLIENT.bramble,
    );
    const who = '+447700900581';
    await submit({ phone_number: '07700 900581', work_email: 'wren@example.org' });
    expect((await hears(WA, who, 1))[0]).toMatch(/^Hello Wren, your plant/);
    const page = await conversation(CLIENT.bramble, who);
    expect(page).toMatchObject({ who: 'Wren Tidewell' });
    expect(page.person!.fields).toContainEqual({
      key: 'email',
      name: expect.any(String) as string,
      words: 'wren@example.org',
    });
    expect(
      await stage.one<{ words: string }>('select words from consent where conversation_id = $1', [page.id]),
    ).toEqual({
      words: 'Bramble Row may write to me about plants.',
    });
    await taps(WA, who, 'Go on');
    expect((await hears(WA, who, 2))[1]).toBe('Noted wren@example.org.');
  });

  test('without a number that can be written to are put aside with the reason', async () => {
    await submit({ work_email: 'wren@example.org' });
    expect(await until(aside, (reason) => reason.includes('no telephone number'))).toMatch(
      /asks for no telephone number/,
    );
    await submit({ phone_number: 'later' });
    expect(await until(aside, (reason) => reason.includes('“later”'))).toMatch(/cannot be read/);
  });

  test('are filled in on the test phone, readable and not', async () => {
    const line = (await stage.api.get<LineRow[]>(`/clients/${CLIENT.bramble}/lines`)).find(
      ({ channel }) => channel === 'messenger',
    )!;
    const fill = (answers: Record<string, string>, readable: boolean) =>
      stage.api.post(`/clients/${CLIENT.bramble}/test-phone`, {
        line: line.id,
        who: '24100000000990',
        do: 'lead form',
        adId: '120330022001',
        form: '55500001',
        answers,
        readable,
      });
    await fill({ full_name: 'Rook Tarn', phone_number: '07700 900582' }, true);
    expect((await hears(WA, '+447700900582', 1))[0]).toMatch(/^Hello Rook, your plant/);
    await fill({ full_name: 'Rook Tarn', phone_number: '07700 900583' }, false);
    expect(await until(aside, (reason) => reason.includes('does not say what was answered'))).toBeTruthy();
    await expect(
      stage.api.post(`/clients/${CLIENT.bramble}/test-phone`, {
        line: line.id,
        who: '24100000000990',
        do: 'lead form',
        adId: '1',
        form: 'x',
        answers: {},
        readable: true,
      }),
    ).rejects.toThrow('the id of a form is 5 to 20 digits');
  });

  test('whose answers cannot be asked for now are stored at once with the rest of their request, and asked for again later', async () => {
    const account = standin(MS);
    const { headers, body } = stage.standins.graph.signed('messenger', [
      {
        id: account.id,
        time: clock.now(),
        changes: [
          { field: 'leadgen', value: { leadgen_id: 'later_lead', form_id: '55500001', page_id: account.id } },
        ],
        messaging: [
          {
            sender: { id: '24100000000977' },
            recipient: { id: account.id },
            timestamp: clock.now(),
            message: { mid: 'm_beside', text: 'plants' },
          },
        ],
      },
    ]);
    expect(
      (await fetch(stage.standins.graph.subscriptions.get('page')!, { method: 'POST', headers, body }))
        .status,
    ).toBe(200);
    const forms = () =>
      stage.one<{ tries: number; again_at: Date | null; reason: string }>(
        "select tries, again_at, reason from aside where body like '%later_lead%'",
      );
    expect(await forms()).toMatchObject({
      tries: 1,
      reason: 'the platform does not say what was answered in a lead form',
    });
    // What came with it in the same request is there.
    expect(
      await stage.one('select 1 as there from conversation where address = $1', ['24100000000977']),
    ).toEqual({ there: 1 });
    await wind(2 * MINUTE);
    expect(await forms()).toMatchObject({ tries: 2 });
    expect((await forms()).again_at!.getTime()).toBeGreaterThan(clock.now());
    // Now the platform says it.
    const answers = {
      full_name: 'Late Comer',
      phone_number: '+447700900977',
      work_email: 'late@example.org',
    };
    account.leads.push({
      id: 'later_lead',
      field_data: Object.entries(answers).map(([name, value]) => ({ name, values: [value] })),
    });
    await wind(10 * MINUTE);
    expect(await forms()).toBeUndefined();
    expect(await hears(WA, '+447700900977', 1)).toHaveLength(1);
  });
});

describe('menus', () => {
  test.each([
    ['messenger', 'bramble-row-nursery', 'standing menu', MS, '24100000000560'],
    ['instagram', 'orrery-picture-house', 'opening suggestions', IG, '17800000000560'],
    ['telegram', 'saltmarsh-ferries', 'commands', '', ''],
  ] as const)('on %s are put there, compared, and tapped', async (channel, client, kind, line, who) => {
    const path = `/clients/${client}/lines/${(await lineOf(client, channel)).id}/menus`;
    expect(await stage.api.get<MenusPage>(path)).toMatchObject({ differences: [], problem: null });
    const menus = { [kind]: [{ item: 'programme', label: 'What is on' }] };
    const { body } = await stage.api.raw('put', path, menus);
    expect(body).toMatchObject({ wanted: menus, there: menus, differences: [], problem: null });
    expect(
      await stage.api.raw('put', path, { [kind]: [{ item: 'x', label: 'x'.repeat(300) }] }),
    ).toMatchObject({ status: 400 });
    expect(
      await stage.api.raw('put', path, { [kind]: [{ item: 'x', label: 'x'.repeat(200) }] }),
    ).toMatchObject({
      status: channel === 'telegram' ? 200 : 422,
    });
    if (line === '') return;
    const account = standin(line);
    account.profile.persistent_menu = [
      { locale: 'default', call_to_actions: [{ title: 'Shop', payload: 'SHOP' }] },
    ];
    expect((await stage.api.get<MenusPage>(path)).differences.join(' ')).toMatch(/Shop/);
    account.mood = '401';
    expect((await stage.api.get<MenusPage>(path)).problem).toMatch(/token has expired/);
    account.mood = 'well';
    await does(line, who, { do: 'menu', name: 'Mira', item: 'programme' });
    if (client === CLIENT.orrery) expect((await hears(line, who, 1))[0]).toMatch(/This week/);
  });

  test('a greeting of Messenger is put there, seen before the first message, and taken away', async () => {
    const { id } = await lineOf(CLIENT.bramble, 'messenger');
    const path = `/clients/${CLIENT.bramble}/lines/${id}/menus`;
    const put = async (menus: object) => (await stage.api.raw('put', path, menus)).body as MenusPage;
    expect(await put({ greeting: ' Welcome to the nursery. ' })).toMatchObject({
      there: { greeting: 'Welcome to the nursery.' },
      differences: [],
    });
    expect(stage.standins.graph.look(MS, '24100000000561').greeting).toBe('Welcome to the nursery.');
    expect(await stage.api.raw('put', path, { greeting: 'x'.repeat(161) })).toMatchObject({ status: 422 });
    standin(MS).profile.greeting = [{ locale: 'default', text: 'Of another program' }];
    expect((await stage.api.get<MenusPage>(path)).differences).toEqual([
      'The greeting there says “Of another program” and not “Welcome to the nursery.”.',
    ]);
    expect(await put({})).toMatchObject({ problem: null, differences: [] });
    expect(stage.standins.graph.look(MS, '24100000000561').greeting).toBeNull();
  });

  test('are not to be had on a number', async () => {
    const { id } = await lineOf('saltmarsh-ferries', 'sms');
    expect(await stage.api.raw('get', `/clients/saltmarsh-ferries/lines/${id}/menus`)).toMatchObject({
      status: 409,
    });
  });
});

describe('a line', () => {
  test('is renewed by its token alone; the secrets of another account are refused', async () => {
    const before = await lineOf(CLIENT.bramble, 'whatsapp');
    expect(before.known).toEqual({ appId: '700100200300', numberId: '106540022', wabaId: '8106540022' });
    const renew = (token: string) =>
      stage.api.raw('post', `/clients/${CLIENT.bramble}/lines`, {
        channel: 'whatsapp',
        renews: before.id,
        token,
        appId: '',
        appSecret: '',
        numberId: '',
        wabaId: '',
      });
    expect(await renew('EAAWnot-a-token-of-anybody-here')).toMatchObject({ status: 422 });
    expect(await renew(graphAccess('whatsapp', '106540022').token)).toMatchObject({
      status: 200,
      body: { id: before.id, state: 'connected' },
    });
    const page = await lineOf(CLIENT.bramble, 'messenger');
    const other = await stage.api.raw('post', `/clients/${CLIENT.bramble}/lines`, {
      channel: 'messenger',
      renews: page.id,
      ...graphAccess('messenger', '100220011'),
    });
    expect(other).toMatchObject({
      status: 422,
      body: { detail: expect.stringMatching(/another account/) as string },
    });
    expect((await stage.api.get<LineRow[]>(`/clients/${CLIENT.bramble}/lines`)).length).toBe(2);
  });

  test('answers before it sends what nobody asked for', async () => {
    await stage.publish(
      [
        'format: dart-loop/1',
        'name: Crowd',
        'lines: []',
        'cues: [{ kind: keyword, words: [CROWD], match: exactly }]',
        'scenes:',
        '  - id: one',
        '    name: One',
        '    steps:',
        '      - { kind: say, text: At once }',
        '      - { kind: wait, for: 1h }',
        '      - { kind: say, text: Unasked }',
      ].join('\n'),
    );
    const crowd = Array.from({ length: 8 }, (_, at) => `+4477009007${10 + at}`);
    // At noon, so that no quiet hours hold it.
    await wind(36 * HOUR - (clock.now() % (24 * HOUR)));
    const texts = () => stage.standins.sms.sendings.map((each) => each.body);
    for (const who of crowd) await stage.write(who, 'crowd');
    await until(
      () => {
        clock.wind(clock.now() + 1_100);
        return crowd.filter((who) => stage.heard(who).length === 1).length;
      },
      (count) => count === crowd.length,
    );
    const before = texts().length;
    await wind(HOUR);
    await stage.write('+447700900799', 'crowd');
    await stage.server.path.settled();
    await until(
      async () => {
        clock.wind(clock.now() + 1_100);
        await stage.server.path.settled();
        return texts().slice(before);
      },
      (sent) => sent.length >= crowd.length + 1,
    );
    const order = texts()
      .slice(before)
      .map((text) => text.includes('At once'));
    expect(order.indexOf(true)).toBeLessThan(4);
  });

  test('its caps hold back what nobody asked for until midnight, and never an answer', async () => {
    const { id } = await lineOf(CLIENT.bramble, 'whatsapp');
    const caps = { perDay: null, perPerson: 1 };
    expect(
      await stage.api.raw('put', `/clients/${CLIENT.bramble}/lines/${id}/caps`, {
        perDay: 0,
        perPerson: null,
      }),
    ).toMatchObject({
      status: 400,
    });
    expect(await stage.api.raw('put', `/clients/${CLIENT.bramble}/lines/${id}/caps`, caps)).toMatchObject({
      status: 200,
      body: { caps },
    });
    // From noon of a day on, so that midnight is no matter of luck.
    await wind(36 * HOUR - (clock.now() % (24 * HOUR)));
    await stage.publish(
      [
        'format: dart-loop/1',
        'name: Drip',
        'lines: []',
        'cues: [{ kind: keyword, words: [DRIP], match: exactly }]',
        'scenes:',
        '  - id: one',
        '    name: One',
        '    steps:',
        '      - { kind: say, text: At once }',
        '      - { kind: wait, for: 1h }',
        '      - { kind: say, text: After an hour }',
        '      - { kind: wait, for: 1h }',
        '      - { kind: say, text: After two hours }',
      ].join('\n'),
      CLIENT.bramble,
    );
    const who = '+447700900550';
    await writes(WA, who, 'drip');
    await hears(WA, who, 1);
    await wind(61 * 60_000);
    expect(await hears(WA, who, 2)).toEqual(['At once', 'After an hour']);
    await wind(61 * 60_000);
    const waiting = await until(
      async () => outs(await conversation(CLIENT.bramble, who)).at(-1)!,
      (entry) => entry.body.text === 'After two hours' && entry.failure !== null,
    );
    expect(waiting).toMatchObject({
      status: 'queued',
      failure: { reason: expect.stringMatching(/cap/) as string },
    });
    expect((await lineOf(CLIENT.bramble, 'whatsapp')).unaskedToday).toBeGreaterThanOrEqual(1);
    await wind(11 * HOUR);
    expect(await hears(WA, who, 3)).toEqual(['At once', 'After an hour', 'After two hours']);
    await stage.api.raw('put', `/clients/${CLIENT.bramble}/lines/${id}/caps`, {
      perDay: null,
      perPerson: null,
    });
  });
});
