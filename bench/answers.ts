import { answersTo } from '@dart-loop/core/answers/answering';
import { SourceIndex } from '@dart-loop/core/answers/finding';
import type { Passage } from '@dart-loop/core/answers/passage';
import { median, print } from './figures';

/** Passages of the large client and of the small one beside it. */
const MANY = 20_000;
const FEW = 30;
const ASKED = 200;

const THINGS =
  'boat bicycle dog voucher ticket locker towel seat table room garden tour lesson course pot'.split(' ');
const MORE =
  'summer winter children groups morning evening harbour island upper lower early late long short'.split(' ');
const SAYS = [
  (thing: string, more: string, at: number) => `A ${thing} costs £${(at % 90) + 2}.50 in the ${more}.`,
  (thing: string, more: string) => `Bring the ${thing} to the ${more} desk, except on public holidays.`,
  (thing: string, more: string, at: number) => `The ${more} ${thing} leaves at ${at % 24}:15 every day.`,
];

/** Invented passages of two sentences, no two the same. */
const passages = (count: number): Passage[] =>
  Array.from({ length: count }, (_, at) => {
    const thing = THINGS[at % THINGS.length]!;
    const more = MORE[Math.floor(at / THINGS.length) % MORE.length]!;
    return {
      source: `page-${Math.floor(at / 10)}.md`,
      headings: [`${thing} ${more} number${at}`],
      sentences: [SAYS[at % 3]!(thing, more, at), SAYS[(at + 1) % 3]!(thing, more, at + 1)],
    };
  });
const questions = Array.from({ length: ASKED }, (_, at) => {
  const thing = THINGS[(at * 7) % THINGS.length]!;
  const more = MORE[(at * 5) % MORE.length]!;
  return [
    `how much is a ${thing} in the ${more}`,
    `when does the ${more} ${thing} leave`,
    `wher do i brng the ${thing}`,
  ][at % 3]!;
});

const heapMb = (): number => process.memoryUsage().heapUsed / 1_048_576;

/** Milliseconds of each question, once the words have been read a first time. */
function timed(work: (question: string) => unknown): number {
  for (const question of questions.slice(0, 20)) work(question);
  return median(
    questions.map((question) => {
      const began = performance.now();
      work(question);
      return performance.now() - began;
    }),
  );
}

/** Finding and answering among many passages beside few, and what an index of many needs. */
export function answers(): void {
  const few = new SourceIndex(passages(FEW));
  const before = heapMb();
  const began = performance.now();
  const many = new SourceIndex(passages(MANY));
  const made = performance.now() - began;
  const needs = heapMb() - before;
  const again = performance.now();
  const changed = new SourceIndex([...many.passages.slice(1), passages(1)[0]!], many);
  const changing = performance.now() - again;
  const find = (index: SourceIndex) => timed((question) => index.find(index.read(question)));
  const [foundFew, foundMany] = [find(few), find(many)];
  const [answeredFew, answeredMany] = [
    timed((question) => answersTo(few, question)),
    timed((question) => answersTo(changed, question)),
  ];
  const beside = (reference: number, figure: number) =>
    `among ${FEW}: ${reference.toFixed(2)}, ${(figure / reference).toFixed(1)} times`;
  print(`finding among ${MANY} passages, ms`, foundMany, beside(foundFew, foundMany));
  print(`answering from ${MANY} passages, ms`, answeredMany, beside(answeredFew, answeredMany));
  print(`indexing ${MANY} passages, ms`, made, `after one change ${changing.toFixed(0)}`);
  print(`an index of ${MANY} passages, MB`, needs, `${((needs * 1_024) / MANY).toFixed(1)} KB each`);
}
