import type { LoopPage, LoopSurroundings } from '@dart-loop/contract';
import { stranger } from '@dart-loop/core/people/person';
import { Performance } from '@dart-loop/core/engine/rehearsal/performance';
import { readScriptLine } from '@dart-loop/core/engine/rehearsal/script';
import { rehearsalAmong } from '@dart-loop/core/loops/takes/takes';
import { LANGUAGES } from '@dart-loop/core/people/client';
import { BOT, Stage } from './support/stage';

const CLIENT = '/clients/saltmarsh-ferries';
const LOOP = `{ format: dart-loop/1, name: Reads, cues: [{ kind: keyword, words: [start], match: exactly }], scenes: [
  { id: one, name: One, steps: [
    { kind: ask, text: N1, reply: number, field: r_number }, { kind: ask, text: N2, reply: date, field: r_date },
    { kind: ask, text: N3, reply: time, field: r_time }, { kind: ask, text: N4, reply: yes/no, field: r_yes },
    { kind: ask, text: N5, reply: several of, field: r_several, none: true, options: [{ id: a, label: Ears }, { id: b, label: Nails }, { id: c, label: Bow }] },
    { kind: ask, text: N6, reply: number, field: r_dogs, also: [{ text: N7, reply: date, field: r_day }] },
    { kind: say, text: Read. } ] }] }`;
const FIELDS = {
  r_number: 'number',
  r_date: 'date',
  r_time: 'time',
  r_yes: 'yes/no',
  r_several: 'several of',
  r_dogs: 'number',
  r_day: 'date',
} as const;

/** What somebody of each language answers, question by question. */
const REPLIES: Record<(typeof LANGUAGES)[number], string[]> = {
  en: [
    'a couple of us',
    'the day after tomorrow',
    'half past four pm',
    'yeah why not',
    'A and C',
    '2 dogs, easter monday',
  ],
  es: ['veintiuno', 'pasado mañana', 'a las tres de la tarde', 'claro que no', 'A y B', 'dos perros, mañana'],
  fr: [
    'vingt-deux',
    'après-demain',
    'à quinze heures trente',
    'bien sûr que non',
    'aucun',
    'trois chiens demain',
  ],
  de: ['zwölf', 'übermorgen', 'halb sieben abends', 'auf jeden Fall', 'A und B', 'drei Hunde, morgen'],
  pt: ['três', 'depois de amanhã', 'às três da tarde', 'claro que sim', 'nenhum', 'dois cães amanhã'],
  it: ['cinque', 'dopodomani', 'alle tre del pomeriggio', 'certo che no', 'A e C', 'due cani, domani'],
};

let stage: Stage;
let path = '';
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
  await stage.db.query('update client set languages = $1 where slug = $2', [LANGUAGES, 'saltmarsh-ferries']);
  await stage.fields(CLIENT, FIELDS);
  path = await stage.publish(LOOP);
});
afterAll(() => stage.close());

test('the rehearsal, which play goes by, and the server read what is written alike, in every language', async () => {
  const { draft } = await stage.api.get<LoopPage>(path);
  const known = await stage.api.get<LoopSurroundings>(`${path}/surroundings`);
  const read: Record<string, unknown> = {};
  const speak = async (language: (typeof LANGUAGES)[number], at: number) => {
    const rehearsed = new Performance(
      rehearsalAmong(draft, known, {
        channel: 'telegram',
        person: { ...stranger('somebody'), language },
        now: Date.now(),
      }),
    );
    const who = String(83_001 + at);
    stage.standins.telegram.speak(BOT, who, language);
    await stage.write(who, 'start');
    await stage.hears(who, 1);
    rehearsed.perform(readScriptLine('start')! as never);
    for (const [nth, reply] of REPLIES[language].entries()) {
      rehearsed.perform(readScriptLine(reply)! as never);
      await stage.write(who, reply);
      await stage.hears(who, nth + 2);
    }
    const { fields } = await stage.one<{ fields: Record<string, unknown> }>(
      `select fields from person where id in (select person_id from conversation where address = '${who}')`,
    );
    const ours = Object.fromEntries(
      Object.entries(rehearsed.rehearsal.person.fields).filter(([key]) => key in FIELDS),
    );
    read[language] = Object.keys(ours).sort();
    expect({ language, fields }).toMatchObject({ language, fields: ours });
  };
  await Promise.all(LANGUAGES.map(speak));
  // And all of it was read: nothing was asked again.
  expect(read).toEqual(
    Object.fromEntries(LANGUAGES.map((language) => [language, Object.keys(FIELDS).sort()])),
  );
});
