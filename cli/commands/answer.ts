import { answersTo, type Answered } from '@dart-loop/core/answers/answering';
import { answerLine } from '@dart-loop/core/answers/formats';
import { placeOf } from '@dart-loop/core/answers/passage';
import { USUAL_LENGTH, withinLength } from '@dart-loop/core/answers/saying';
import { Unusable } from '../machine';
import { readArguments } from './loopFiles';
import { readSources } from './sources';

export const USAGE = `./dartloop answer FOLDER "question" [--before "question"] [--length 600] [--json]

  FOLDER     the sources: PDF, DOCX, HTML, Markdown, plain text and CSV, and folders of them
  --before   what the same person asked last, for a question that goes on from it
  --length   how many characters one answer may have
  --json     one object for each question in the message

Status 0: everything was answered; 1: something was only offered or left open; 2: nothing could be read.`;

const percent = (sure: number) => `${Math.round(100 * sure)} %`;

function inWords({ question, zone, text, found, sure }: Answered): string {
  if (zone === 'answer') return `${text}\n  (${placeOf(found[0]!.passage)}, ${percent(sure)} sure)`;
  if (zone === 'not known') return `“${question}”: the sources do not say it (${percent(sure)} sure).`;
  const offered = found.map(({ passage }) => `  - ${passage.headings.at(-1)} (${placeOf(passage)})`);
  return [`“${question}”: one of these? (${percent(sure)} sure)`, ...offered].join('\n');
}

/** `./dartloop answer FOLDER "question"`: an answer from a folder of sources. See {@link USAGE}. */
export async function answer(args: string[]): Promise<number> {
  const { names, flags, values } = readArguments(args, {
    flags: ['json', 'help'],
    values: ['before', 'length'],
  });
  if (flags.has('help')) {
    console.log(USAGE);
    return 0;
  }
  const [folder, ...question] = names;
  if (folder === undefined || question.length === 0)
    throw new Unusable(`Name a folder of sources and ask a question.\n\n${USAGE}`);
  const length = values.length ?? String(USUAL_LENGTH);
  const most = /^\d{1,6}$/.test(length) ? Number(length) : 0;
  if (most < 20) throw new Unusable(`--length is a number of characters, 20 or more; “${length}” is not.`);
  const index = await readSources(folder);
  const answered = answersTo(index, question.join(' '), {
    before: values.before ?? null,
    fits: withinLength(most),
  });
  for (const each of answered)
    console.log(flags.has('json') ? JSON.stringify(answerLine(each)) : inWords(each));
  return answered.every(({ zone }) => zone === 'answer') ? 0 : 1;
}
