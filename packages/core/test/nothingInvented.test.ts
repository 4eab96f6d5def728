import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { ModelAsked as StandinAsked, ModelStandin } from '../../../apps/standins/src/model';
import { answersTo } from '../src/answers/answering';
import { passagesOf, sentencesOf } from '../src/answers/cutting';
import { markdownBlocks } from '../src/answers/documents/markdown';
import { SourceIndex } from '../src/answers/finding';
import { completionOf, readReply } from '../src/answers/hosted/reply';
import { modelRequest, type ModelAsked } from '../src/answers/hosted/request';
import { USUAL_LIMITS, WORDINGS } from '../src/answers/hosted/settings';
import { textOf } from '../src/answers/passage';
import { fitsChannel } from '../src/answers/saying';
import { readSheet } from '../src/answers/sheet';
import { CHANNEL_KINDS } from '../src';
import { DEMO } from './demoLoops';

/** Each client of the demo with its site, and what is asked of it. */
const CLIENTS = readdirSync(DEMO, { withFileTypes: true })
  .filter((each) => each.isDirectory())
  .map(({ name }) => {
    const folder = join(DEMO, name, 'site');
    const passages = readdirSync(folder).flatMap((file) =>
      passagesOf(file, file, markdownBlocks(readFileSync(join(folder, file), 'utf8'))),
    );
    const { rows } = readSheet(readFileSync(join(DEMO, name, 'questions.csv'), 'utf8'));
    return { name, index: new SourceIndex(passages), passages, questions: rows.map((row) => row.question) };
  });

/** What none of them sells, asked for as if they did. */
const NOT_SOLD =
  `helicopter flight, submarine tour, hot air balloon, wedding cake, tractor, piano tuning, tattoo, haircut,
  mortgage, gym for horses, camel ride, passport photo, dentist visit, suit hire, bouncy castle, second hand tyre,
  diamond ring, ski pass, sauna evening, parachute jump`
    .split(',')
    .map((each) => each.trim());
const TEMPTING = NOT_SOLD.flatMap((thing) => [
  `how much is a ${thing}`,
  `do you have a ${thing} in Wexbury on mondays`,
]);

test('whatever is asked, nothing is said that does not stand in a source, word for word', () => {
  let asked = 0;
  let said = 0;
  let tempted = 0;
  for (const client of CLIENTS) {
    const theirs = CLIENTS.filter(({ name }) => name !== client.name).flatMap(({ questions }) => questions);
    const sentences = new Set(client.passages.flatMap((passage) => passage.sentences));
    const texts = client.passages.map(textOf);
    for (const [at, question] of [...theirs, ...TEMPTING].entries())
      for (const answer of answersTo(client.index, question, {
        fits: fitsChannel(CHANNEL_KINDS[at % CHANNEL_KINDS.length]!),
      })) {
        asked++;
        if (answer.text === null) continue;
        said++;
        if (TEMPTING.includes(question)) tempted++;
        const passage = answer.found[0]!.passage;
        expect(texts).toContain(textOf(passage));
        // The whole of it, or whole sentences of it in their order.
        const left = passage.sentences.filter((sentence) => answer.text!.includes(sentence));
        expect(answer.text).toBe(left.join(' '));
        for (const sentence of sentencesOf(answer.text)) expect([...sentences].join(' ')).toContain(sentence);
      }
  }
  process.stdout.write(`\nasked ${asked}, said outright ${said}, of those that tempt ${tempted} of 200\n`);
  expect(asked).toBeGreaterThanOrEqual(700);
  expect(tempted).toBeLessThanOrEqual(6);
});

test('a hosted model that lies to all of it gets nothing said that stands in no source', () => {
  const standin = new ModelStandin();
  let asked = 0;
  const said = { quoted: 0, 'own words': 0 };
  for (const client of CLIENTS) {
    const theirs = CLIENTS.filter(({ name }) => name !== client.name).flatMap(({ questions }) => questions);
    const all = client.passages.map(textOf).join(' ');
    for (const [at, question] of [...theirs, ...TEMPTING].entries())
      for (const wording of WORDINGS) {
        const fits = fitsChannel(CHANNEL_KINDS[at % CHANNEL_KINDS.length]!);
        const [answer] = answersTo(client.index, question, { fits });
        if (!answer || answer.zone === 'answer') continue;
        const passages = [...answer.found, ...answer.next].map(({ passage }) => passage);
        const told: ModelAsked = {
          ...{ question, passages, wording, fits, most: 600, turns: [], facts: [] },
        };
        const request = StandinAsked.parse(modelRequest(told, { model: 'lies' }, USUAL_LIMITS));
        const reply = readReply(completionOf(standin.complete(request))!.content, told);
        asked++;
        if (!reply.ok || !reply.known) continue;
        said[wording]++;
        for (const sentence of sentencesOf(reply.text)) expect(all).toContain(sentence);
      }
  }
  process.stdout.write(`\nasked ${asked}, said quoted ${said.quoted}, in own words ${said['own words']}\n`);
  expect(asked).toBeGreaterThan(700);
  // What it names is the sources' own, however little it answers.
  expect(said.quoted).toBeGreaterThan(0);
});
