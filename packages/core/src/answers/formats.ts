import { z } from 'zod';
import type { Answered } from './answering';
import { CAME_RANK, type Came } from './came';
import { placeOf, textOf } from './passage';
import { SheetRow, type SheetResult } from './sheet';

const Zone = z.enum(['answer', 'offer', 'not known']);
const Sure = z.number().min(0).max(1);

/** A row of pairs, as they are pasted; `wordings`: other ways of asking, parted by |. */
const PairRow = z.object({
  question: z.string().min(1),
  answer: z.string().min(1),
  wordings: z.string().optional(),
});

/** A question with what became of it, as the command `answer` gives it in JSON. */
export const AnswerLine = z.object({
  question: z.string(),
  zone: Zone,
  sure: Sure,
  /** The source's own words; null unless it is answered. */
  text: z.string().nullable(),
  passages: z.array(
    z.object({
      /** "tickets.md#Children". */
      place: z.string(),
      text: z.string(),
      score: z.number(),
      matched: z.array(z.string()),
    }),
  ),
});
export type AnswerLine = z.infer<typeof AnswerLine>;

/** A question of a sheet with how it came out, as the command `sheet` gives it in JSON. */
export const SheetLine = z.object({
  question: z.string(),
  came: z.enum(Object.keys(CAME_RANK) as [Came, ...Came[]]),
  isAsExpected: z.boolean(),
  zone: Zone,
  sure: Sure,
  text: z.string().nullable(),
  places: z.array(z.string()),
});
export type SheetLine = z.infer<typeof SheetLine>;

const rounded = (sure: number): number => Number(sure.toFixed(3));

export const answerLine = ({ question, zone, text, sure, found }: Answered): AnswerLine => ({
  ...{ question, zone, text, sure: rounded(sure) },
  passages: found.map(({ passage, score, words }) => ({
    place: placeOf(passage),
    text: textOf(passage),
    score: Number(score.toFixed(2)),
    matched: words,
  })),
});

export const sheetLine = ({ row, answered, came, isAsExpected }: SheetResult): SheetLine => ({
  ...{ question: row.question, came, isAsExpected },
  ...{ zone: answered.zone, sure: rounded(answered.sure), text: answered.text },
  places: answered.found.map(({ passage }) => placeOf(passage)),
});

/** The JSON Schema of what goes in and out: rows of a sheet and of pairs, and the lines of both commands. */
export const answersJsonSchema = () => ({
  title: 'Answers from sources',
  $defs: {
    sheetRow: z.toJSONSchema(SheetRow, { io: 'input' }),
    pairRow: z.toJSONSchema(PairRow, { io: 'input' }),
    answer: z.toJSONSchema(AnswerLine),
    sheetResult: z.toJSONSchema(SheetLine),
  },
});
