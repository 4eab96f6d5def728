import { z } from 'zod';
import type { Passage } from '../passage';
import { withExceptions } from '../saying';
import { whyNotSaid } from './claims';
import { idOf, type ModelAsked } from './request';

/** What comes back of a chat completion, as far as it is needed. */
const Completion = z.object({
  choices: z
    .array(
      z.object({
        message: z.object({ content: z.string() }),
        finish_reason: z.string().nullish(),
      }),
    )
    .min(1),
  usage: z
    .object({ prompt_tokens: z.number().int().min(0), completion_tokens: z.number().int().min(0) })
    .nullish(),
});

const Say = z.object({
  from: z.array(z.string()).min(1).max(20),
  text: z.string().optional(),
  quote: z.string().optional(),
});
const Reply = z.object({ known: z.boolean(), say: z.array(Say).max(20) });

/** What a model's answer comes to once it is held against the passages. */
export type ModelReply =
  | { ok: true; known: true; text: string; passages: Passage[] }
  | { ok: true; known: false }
  /** It must not be said; `why` completes "was not said, as …". */
  | { ok: false; why: string };

/** What came back of a call, before it is held against anything; null where it is no chat completion. */
export function completionOf(
  body: unknown,
): { content: string; isCut: boolean; tokens: Tokens | null } | null {
  const read = Completion.safeParse(body);
  if (!read.success) return null;
  const [choice] = read.data.choices;
  const { usage } = read.data;
  return {
    content: choice!.message.content,
    isCut: choice!.finish_reason === 'length',
    tokens: usage ? { sent: usage.prompt_tokens, back: usage.completion_tokens } : null,
  };
}

export interface Tokens {
  sent: number;
  back: number;
}

/** JSON that may stand between fences or words. */
function jsonIn(content: string): unknown {
  const from = content.indexOf('{');
  const to = content.lastIndexOf('}');
  try {
    return JSON.parse(content.slice(from, to + 1));
  } catch {
    return null;
  }
}

const refused = (why: string): ModelReply => ({ ok: false, why });

/**
 * Holds what a model answered against the passages it was given, sentence by sentence. What it names and is
 * not there, what stands in no source, and what is too long is not said.
 */
export function readReply(content: string, asked: ModelAsked): ModelReply {
  const read = Reply.safeParse(jsonIn(content));
  if (!read.success) return refused('it did not have the form that was asked for');
  const { known, say } = read.data;
  if (!known || say.length === 0) return { ok: true, known: false };
  const places = new Map(
    asked.passages.flatMap(({ sentences }, at) =>
      sentences.map((_, place) => [idOf(at, place), { at, place }] as const),
    ),
  );
  const missing = say.flatMap(({ from }) => from).find((id) => !places.has(id));
  if (missing !== undefined) return refused(`it named the sentence ${missing}, which it was not given`);
  const chosen = say.map(({ from }) => from.map((id) => places.get(id)!));
  const passages = [...new Set(chosen.flat().map(({ at }) => at))].map((at) => asked.passages[at]!);
  let text: string;
  if (asked.wording === 'quoted') text = quoted(chosen.flat(), asked);
  else {
    for (const [nth, { text: own = '', quote = '' }] of say.entries()) {
      const sentences = chosen[nth]!.map(({ at, place }) => asked.passages[at]!.sentences[place]!).join(' ');
      const heading = chosen[nth]!.map(({ at }) => asked.passages[at]!.headings.join(' ')).join(' ');
      const why = whyNotSaid(own, quote, sentences, heading);
      if (why !== null) return refused(`of “${own}”, ${why}`);
    }
    text = say.map(({ text: own = '' }) => own.trim()).join(' ');
  }
  if (!asked.fits(text)) return refused(`it has ${text.length} characters, which is too long`);
  return { ok: true, known: true, text, passages };
}

/**
 * The chosen sentences as they stand in their passages, in the order in which those were named, with the
 * exceptions that follow them; a single passage whole, where it fits.
 */
function quoted(chosen: readonly { at: number; place: number }[], { passages, fits }: ModelAsked): string {
  const byPassage = new Map<number, Set<number>>();
  for (const { at, place } of chosen) byPassage.set(at, (byPassage.get(at) ?? new Set()).add(place));
  const whole = byPassage.size === 1 ? passages[chosen[0]!.at]!.sentences.join(' ') : null;
  if (whole !== null && fits(whole)) return whole;
  return [...byPassage]
    .flatMap(([at, places]) => {
      const { sentences } = passages[at]!;
      return withExceptions(sentences, places).map((place) => sentences[place]!);
    })
    .join(' ');
}
