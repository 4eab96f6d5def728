import { wordsOf, termsOf } from './terms';

const QUESTION_WORD =
  'what|whats|when|whens|where|wheres|how|hows|who|which|why|can|could|do|does|is|are|will|may';
/** Where a second question begins behind the first without a question mark. */
const SECOND = new RegExp(
  String.raw`\s*(?:,|;|\band\b|\balso\b|&|\+)\s+(?:also\s+|and\s+)?(?=(?:${QUESTION_WORD})\b)`,
  'i',
);
/** Greetings and thanks that stand alone. */
const ASKS_NOTHING =
  /^(?:hi|hello|hey|hiya|good (?:morning|afternoon|evening|day)|thanks|thank you|cheers|ok|okay)[\s!,.]*$/i;
/** Of one line; what would be cut into more is a story with one question in it. */
const MOST_OF_LINE = 3;
/** Of a message: as many as somebody writes one after the other. */
const MOST_QUESTIONS = 8;

/**
 * The questions in a message, in order: cut at lines and question marks, and before a question word behind
 * "and".
 */
export function questionsIn(message: string): string[] {
  const questions = message
    .split(/\n+/)
    .flatMap((line) => {
      const pieces = line.split(/(?<=\?)\s+/).flatMap((piece) => piece.split(SECOND));
      return pieces.length <= MOST_OF_LINE ? pieces : [line];
    })
    .map((piece) => piece.trim())
    .filter((piece) => wordsOf(piece).length > 0 && !ASKS_NOTHING.test(piece));
  // What says nothing by itself belongs to what stands before it, or behind it where nothing does.
  const whole: string[] = [];
  for (const question of questions) {
    const last = whole.length - 1;
    if (last >= 0 && (saysNothing(question) || saysNothing(whole[last]!))) whole[last] += ` ${question}`;
    else whole.push(question);
  }
  return whole.length <= MOST_QUESTIONS ? whole : [message.trim()];
}

const saysNothing = (piece: string): boolean => termsOf(wordsOf(piece)).stems.length === 0;

const GOES_ON = /^(?:and|what about|how about|also|ok and|or|then|but)\b/i;

/**
 * How much of the question before is still meant: half where a short one goes on from it ("and on sundays?"),
 * a quarter where it has three words at most, else nothing.
 */
export function carriedOver(question: string): number {
  const { stems } = termsOf(wordsOf(question));
  if (GOES_ON.test(question.trim()) && stems.length <= 2) return 0.5;
  return wordsOf(question).length <= 3 ? 0.25 : 0;
}
