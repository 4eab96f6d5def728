import type { Span } from '../../language/replies/reading';
import type { FieldType } from '../../people/person';
import { readAnswer, type AnswerReading, type Question } from './askReading';
import type { Reply, StepWorld } from './step';

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
  const readIn =
    (question: Question, onlyNamed = false) =>
    (text: string) =>
      readAnswer(question, { kind: 'text', text }, world, {
        within: question === open[0] ? within : undefined,
        onlyNamed,
      });
  const take = (question: Question, read: (text: string) => AnswerReading) => {
    const reading = message.read(read);
    if (!reading) return;
    found.set(question, reading);
    message.without((text) => isSame(read(text), reading));
  };
  const inOrder = ORDER.flatMap((type) => open.filter((each) => each.reply === type));
  // "2 dogs, Friday at 3": a number by itself is a time only where it can be nothing else.
  const hasNumbers = open.some(({ reply: type }) => type === 'number' || type === 'one of');
  for (const question of inOrder)
    if (question.reply !== 'text') take(question, readIn(question, question.reply === 'time' && hasNumbers));
    else if (/\p{L}/u.test(message.words)) found.set(question, readIn(question)(message.words));
  for (const question of inOrder)
    if (question.reply === 'time' && !found.has(question)) take(question, readIn(question));
  return found;
}

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
  read(read: (text: string) => AnswerReading): AnswerReading | null {
    const readings = this.left
      .split(PARTS)
      .filter((part) => /[\p{L}\p{N}]/u.test(part))
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
    // What stands behind may spoil a longer one ("3pm 2 dogs"): every end is tried, from either side.
    let from = words.length - 1;
    while (from > 0 && !says(words.slice(from).join(''))) from--;
    let to = from + 1;
    while (to < words.length && !says(words.slice(from, to).join(''))) to++;
    const left = `${words.slice(0, from).join('')} , ${words.slice(to).join('')}`;
    this.left = this.left.replace(whole, () => left);
  }
}
