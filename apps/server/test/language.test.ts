import type { ConversationPage, TodayPage } from '@dart-loop/contract';
import { postJson } from '../../../cli/api';
import { BOT, Stage, until } from './support/stage';

let stage: Stage;
const CLIENT = '/clients/saltmarsh-ferries';
beforeAll(async () => void (stage = await Stage.open({ limits: false })));
afterAll(() => stage.close());

const loop = (name: string, cues: string, steps: string) =>
  `{ format: dart-loop/1, name: ${name}, cues: [${cues}], scenes: [{ name: One, steps: [${steps}] }] }`;
const word = (text: string) => `{ kind: keyword, words: [${text}], match: exactly }`;

/** Something of another kind than text reaches the bot, as Telegram sends it. */
async function send(who: number, content: object): Promise<void> {
  const { telegram } = stage.standins;
  telegram.meet(telegram.bot(BOT)!, who);
  const { url, headers, body } = telegram.update(telegram.bot(BOT)!, {
    message: {
      message_id: 900 + Math.floor(Math.random() * 1_000),
      date: 1,
      chat: { id: who, type: 'private' },
      from: { id: who, is_bot: false, first_name: 'Fenn' },
      ...content,
    },
  });
  expect((await fetch(url, { method: 'POST', headers, body })).status).toBe(200);
}

test('a link’s code and a command start their loops; a command that no cue waits for is heard as its word', async () => {
  await stage.publish(
    loop(
      'Poster',
      '{ kind: link, ref: poster-1 }',
      '{ kind: say, text: "By the poster, {{ person.first_name }}." }',
    ),
  );
  await stage.publish(
    loop('Timetable', '{ kind: menu tap, item: timetable }', '{ kind: say, text: Every two hours. }'),
  );
  await stage.write('72001', '/start poster-1', 'Fenn');
  expect(await stage.hears('72001', 1)).toEqual(['By the poster, Fenn.']);
  await stage.write('72001', '/timetable');
  expect((await stage.hears('72001', 2))[1]).toBe('Every two hours.');
  await stage.write('72001', '/sailings');
  expect((await stage.hears('72001', 3))[2]).toContain('Want a message when a sailing is moved');
});

test('a file and a place are answers, and stand on the person as what they are', async () => {
  await stage.publish(
    loop(
      'Report',
      word('report'),
      '{ kind: ask, text: A picture please., reply: file, field: picture, retry: { times: 1, text: A picture is needed. } }, { kind: ask, text: Where?, reply: place, field: spot }, { kind: say, text: "{{ person.picture }} at {{ person.spot }}." }',
    ),
  );
  await stage.write('72011', 'report');
  await stage.hears('72011', 1);
  await stage.write('72011', 'it is broken');
  expect((await stage.hears('72011', 2))[1]).toBe('A picture is needed.');
  await send(72_011, { photo: [{ file_id: 'small' }, { file_id: 'large' }] });
  expect((await stage.hears('72011', 3))[2]).toBe('Where?');
  await send(72_011, { location: { latitude: 54.1, longitude: -2.3 } });
  expect((await stage.hears('72011', 4))[3]).toBe('picture at 54.10000, -2.30000.');
  expect(
    await stage.one(
      `
        select fields -> 'picture' -> 'value' ->> 'address' as picture,
          fields -> 'spot' -> 'value' ->> 'latitude' as spot from person where fields ? 'spot'`,
    ),
  ).toEqual({
    picture: 'telegram:large',
    spot: '54.1',
  });
});

test('a picture is sent with its caption, typing is shown before a text, and the language is the telephone’s', async () => {
  await stage.db.query(
    `
      update client set languages = '{en,es}', cue_revision = cue_revision + 1
      where slug = 'saltmarsh-ferries'`,
  );
  await stage.publish(
    loop(
      'Picture',
      word('picture'),
      '{ kind: say, text: The new timetable., media: { what: image, address: "https://saltmarshferries.example/t.png" }, variants: { es: { text: El nuevo horario. } } }, { kind: say, text: Bye., typing: 1, variants: { es: { text: Adiós. } } }',
    ),
  );
  await stage.write('72021', 'picture');
  expect(await stage.hears('72021', 2)).toEqual(['The new timetable.', 'Bye.']);
  const chat = stage.standins.telegram.bot(BOT)!.chats.get('72021')!;
  expect(chat.actions).toBe(1);
  expect(chat.messages.find((message) => message.text === 'The new timetable.')).toMatchObject({
    media: 'https://saltmarshferries.example/t.png',
  });
  stage.standins.telegram.speak(BOT, '72022', 'es-MX');
  await stage.write('72022', 'picture');
  expect(await stage.hears('72022', 2)).toEqual(['El nuevo horario.', 'Adiós.']);
});

test('a tag starts another loop in the same breath, and a called loop comes back; each decision says why', async () => {
  await stage.publish(
    loop('Rules', word('rules'), '{ kind: ask, text: Agreed?, reply: yes/no, field: agreed }'),
  );
  await stage.publish(
    loop(
      'Join',
      word('join us'),
      '{ kind: go, loop: Rules, back: true }, { kind: set, changes: [{ do: add tag, tag: member }, { do: join list, list: Members }] }, { kind: say, text: Welcome. }',
    ),
  );
  await stage.publish(
    loop('Greeting', '{ kind: tag, tag: member, when: added }', '{ kind: say, text: Here is your card. }'),
  );
  await stage.write('72031', 'join us');
  expect(await stage.hears('72031', 1)).toEqual(['Agreed?']);
  await stage.write('72031', 'yes');
  expect(await stage.hears('72031', 3)).toEqual(['Agreed?', 'Welcome.', 'Here is your card.']);
  const { id } = await stage.one<{ id: string }>("select id from conversation where address = '72031'");
  const page = await stage.api.get<ConversationPage>(`${CLIENT}/conversations/${id}`);
  const stages = page.entries.flatMap((entry) => (entry.kind === 'stage' ? [entry] : []));
  expect(stages.map((entry) => entry.words.join(' '))).toEqual([
    '“join us” was heard exactly. Join begins. Goes to the loop Rules, to come back.',
    'Read as yes or no. agreed = yes. Rules is finished. Back in Join. Tag member on. List Members joined. Join is finished.',
    'By the tag member added. Greeting begins. Greeting is finished.',
  ]);
  expect(stages[2]!.decision!.candidates).toMatchObject([
    { who: 'Greeting', place: 'other cue', outcome: 'won' },
  ]);
  expect(
    await stage.one(
      `
        select status, count(*)::int as runs from run
        where conversation_id = (select id from conversation where address = '72031') group by 1`,
    ),
  ).toEqual({ status: 'finished', runs: 3 });
  expect(await stage.one("select lists, tags from person where 'member' = any (tags)")).toEqual({
    lists: ['Members'],
    tags: ['member'],
  });
});

test('the same person draws the same arm at every visit, and a field that is cleared is gone', async () => {
  await stage.publish(
    loop(
      'Arms',
      word('arms'),
      '{ id: v, kind: vary, arms: [{ id: a, weight: 1, to: next }, { id: b, weight: 1, to: next }] }, { kind: set, changes: [{ do: calculate, field: visits, by: plus, amount: "1" }, { do: clear, field: note }] }, { kind: say, text: "Visit {{ person.visits }}" }',
    ),
  );
  for (let visit = 1; visit <= 3; visit++) {
    await stage.write('72041', 'arms');
    expect((await stage.hears('72041', visit)).at(-1)).toBe(`Visit ${visit}`);
  }
  const { arms } = await stage.one<{ arms: string[] }>(
    `
     select array_agg(distinct note ->> 'arm') as arms from decision d, jsonb_array_elements(d.notes) as note
     where note ->> 'code' = 'arm' and d.conversation_id = (select id from conversation
       where address = '72041')`,
  );
  expect(arms).toHaveLength(1);
});

test('Today tells of deliveries that failed, with the conversation to look at', async () => {
  await stage.publish(
    loop(
      'Refused',
      word('refused'),
      '{ kind: send out, address: "https://closed.saltmarshferries.example/x" }, { kind: say, text: Noted. }',
    ),
  );
  stage.standins.outside.answer({
    host: 'closed.saltmarshferries.example',
    status: 410,
    body: {},
    headers: {},
    slowMs: 0,
  });
  await stage.write('72051', 'refused');
  expect(await stage.hears('72051', 1)).toEqual(['Noted.']);
  const today = await stage.api.get<TodayPage>('/today');
  expect(today.attention.find((each) => each.id.startsWith('errand-'))).toMatchObject({
    weight: 'warning',
    words: '1 delivery to closed.saltmarshferries.example failed since yesterday: it was answered 410.',
    action: { href: expect.stringMatching(/^\/inbox\/saltmarsh-ferries\/[0-9a-f-]{36}$/) },
  });
});

test('the language that somebody writes in is kept with them, where nothing told it', async () => {
  const who = '+447700900471';
  const act = (text: string) =>
    postJson(`${stage.standinsAddress}/phone/act`, {
      channel: 'whatsapp',
      line: 'whatsapp:106540033',
      who,
      name: 'Ines',
      do: 'write',
      text,
    });
  const language = async () => {
    await stage.nothingLeft();
    const { rows } = await stage.db.query<{ language: string | null }>(
      `select language from person where first_name = 'Ines'`,
    );
    return rows[0]?.language;
  };
  await act('hola');
  expect(await until(language, (told) => told !== undefined)).toBeNull();
  await act('hola, ¿a qué hora cierran hoy?');
  expect(await until(language, (told) => told !== null)).toBe('es');
});
