import { readMoments } from '../../language/moments';
import type { Span } from '../../language/replies/reading';
import type { FieldType } from '../../people/person';
import { readAnswer, type AnswerReading, type Question } from './askReading';
import { readingWorld, type Reply, type StepWorld } from './step';

/**
 * In which order answers are looked for in one message: those that can be nothing else first, so that what
 * they take is no part of the next; free words get what is left.
 */
const ORDER: FieldType[] = [
  'page address',
  'email',
  'phone',
  'date',
  'time',
  'one of',
  'several of',
  'number',
  'yes/no',
  'text',
];
/** What parts one answer from the next. */
const PARTS = /\s*(?:[,;\n]+|(?<=\s)(?:and|y|et|und|&|\+)(?=\s))\s*/iu;

/**
 * The answers to several questions in one reply, by question: those that were read, and those that could be
 * one of two or lie in a span. A question whose answer is not in it is left out. `within`: the span in which
 * it was asked where the first lies.
 */
export function readSeveral(
  open: readonly Question[],
  reply: Reply,
  world: StepWorld,
  within?: Span,
): Map<Question, AnswerReading> {
  const found = new Map<Question, AnswerReading>();
  if (reply.kind !== 'text') {
    const wanted =
      reply.kind === 'choice' ? open.slice(0, 1) : open.filter((each) => each.reply === reply.kind);
    for (const question of wanted) found.set(question, readAnswer(question, reply, world));
    return found;
  }
  const message = new Message(reply.text.slice(0, 1_000));
  const readIn = (question: Question) => (text: string) =>
    readAnswer(question, { kind: 'text', text }, world, question === open[0] ? within : undefined);
  const take = (question: Question, reading: AnswerReading | null) => {
    if (!reading) return;
    found.set(question, reading);
    message.without((text) => isSame(readIn(question)(text), reading));
  };
  const inOrder = ORDER.flatMap((type) => open.filter((each) => each.reply === type));
  for (const question of inOrder) {
    // "2 dogs, Friday at 3": a number by itself is a time only where it can be nothing else.
    if (question.reply === 'time' && open.some(({ reply: type }) => type === 'number' || type === 'one of')) {
      if (namesTime(message.left, world))
        take(
          question,
          message.read(readIn(question), (text) => namesTime(text, world)),
        );
    } else if (question.reply === 'text') {
      const rest = message.words;
      if (/\p{L}/u.test(rest)) found.set(question, readIn(question)(rest));
    } else take(question, message.read(readIn(question)));
  }
  for (const question of inOrder)
    if (question.reply === 'time' && !found.has(question)) take(question, message.read(readIn(question)));
  return found;
}

/** Whether words name a time of day by more than a number. */
const namesTime = (text: string, world: StepWorld): boolean =>
  readMoments(text, { ...readingWorld(world), asksTime: false }).meant.some(
    ({ times, part }) => times.length > 0 || part !== null,
  );

const isSame = (one: AnswerReading, other: AnswerReading): boolean =>
  JSON.stringify(one.ok ? one.value : [one.either, one.span]) ===
  JSON.stringify(other.ok ? other.value : [other.either, other.span]);

const says = (reading: AnswerReading): boolean => reading.ok || Boolean(reading.either ?? reading.span);

/** What is left of a message, as answers are taken out of it. */
class Message {
  constructor(public left: string) {}

  /** What is left, without what only joined it to what was taken. */
  get words(): string {
    return this.left
      .split(PARTS)
      .map((part) => part.replace(/^[\s.!?–—-]+|[\s–—-]+$/gu, ''))
      .filter((part) => /[\p{L}\p{N}]/u.test(part))
      .join(', ');
  }

  /** Reads one of its parts, where exactly one can be read; else all that is left. */
  read(
    read: (text: string) => AnswerReading,
    counts: (part: string) => boolean = () => true,
  ): AnswerReading | null {
    const readings = this.left
      .split(PARTS)
      .filter((part) => /[\p{L}\p{N}]/u.test(part) && counts(part))
      .map(read)
      .filter(says);
    if (readings.length === 1) return readings[0]!;
    const whole = read(this.left);
    return says(whole) ? whole : null;
  }

  /** Takes out the fewest words in a row that still say it: of one part, where one says it by itself. */
  without(says: (text: string) => boolean): void {
    const whole = this.left.split(PARTS).find(says) ?? this.left;
    if (!says(whole)) return;
    const words = whole.split(/(?<=\s)/);
    let from = 0;
    let to = words.length;
    while (from < to - 1 && says(words.slice(from + 1, to).join(''))) from++;
    while (from < to - 1 && says(words.slice(from, to - 1).join(''))) to--;
    const left = `${words.slice(0, from).join('')} , ${words.slice(to).join('')}`;
    this.left = this.left.replace(whole, () => left);
  }
}
