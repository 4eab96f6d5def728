import type { Request, Response } from 'express';
import { z } from 'zod';
import type { Service } from './outside';

/** How it answers, by the name of the model that is asked for. */
export const MANNERS = ['obeys', 'lies', 'hesitates', 'garbage', 'slow', 'down'] as const;

export const ModelAsked = z.object({
  model: z.string(),
  max_tokens: z.number().int().positive(),
  messages: z.array(z.object({ role: z.enum(['system', 'user']), content: z.string() })).min(2),
  response_format: z.object({ type: z.literal('json_schema'), json_schema: z.object({ schema: z.json() }) }),
});
type ModelAsked = z.infer<typeof ModelAsked>;

const MOST_KEPT = 1_000;
const SLOW_MS = 20_000;
const LETTERS_A_TOKEN = 4;

interface Sentence {
  id: string;
  text: string;
}
interface Say {
  from: string[];
  text?: string;
  quote?: string;
}

/**
 * Stands in for a hosted model at model.example. It knows no language: where it obeys, it finds the sentence
 * that shares most words with the question; where it lies, it does so in another way each time.
 */
export class ModelStandin implements Service {
  static readonly token = 'model-demo-key';
  static readonly address = 'https://model.example/v1/chat/completions';
  /** What it was asked, the oldest first. */
  readonly asked: ModelAsked[] = [];
  #count = 0;
  /** How many it is answering right now, and at most at once. */
  readonly open = { now: 0, most: 0 };

  handle(request: Request, response: Response, path: string): void {
    if (request.headers.authorization !== `Bearer ${ModelStandin.token}`)
      return void response.status(401).json({ error: { message: 'Incorrect API key provided.' } });
    if (request.method !== 'POST' || path.split('?')[0] !== '/v1/chat/completions')
      return void response.status(404).json({ error: { message: 'Unknown request URL.' } });
    const read = ModelAsked.safeParse(request.body);
    if (!read.success) return void response.status(400).json({ error: { message: read.error.message } });
    const { data } = read;
    if (!(MANNERS as readonly string[]).includes(data.model))
      return void response.status(404).json({ error: { message: `No model “${data.model}”.` } });
    if (data.model === 'down') return void response.status(503).json({ error: { message: 'Overloaded.' } });
    this.open.most = Math.max(this.open.most, ++this.open.now);
    const done = () => {
      this.open.now--;
      if (!response.destroyed) response.json(this.complete(data));
    };
    if (data.model === 'slow') setTimeout(done, SLOW_MS).unref();
    else done();
  }

  /** What it answers, however it came to be asked. */
  complete(asked: ModelAsked) {
    this.asked.push(asked);
    if (this.asked.length > MOST_KEPT) this.asked.shift();
    const content = this.#content(asked);
    const sent = asked.messages.reduce((sum, message) => sum + message.content.length, 0);
    return {
      object: 'chat.completion',
      model: asked.model,
      choices: [{ index: 0, message: { role: 'assistant', content }, finish_reason: 'stop' }],
      usage: {
        prompt_tokens: Math.ceil(sent / LETTERS_A_TOKEN),
        completion_tokens: Math.ceil(content.length / LETTERS_A_TOKEN),
      },
    };
  }

  #content({ model, messages, response_format }: ModelAsked): string {
    const told = messages.at(-1)!.content;
    const sentences = [...told.matchAll(/^\[(\d+\.\d+)\] (.*)$/gm)].map(([, id, text]) => ({
      ...{ id: id!, text: text! },
    }));
    const question = told.slice(told.lastIndexOf('Question:\n') + 'Question:\n'.length);
    const ownWords = JSON.stringify(response_format.json_schema.schema).includes('"quote"');
    const nth = this.#count++;
    if (model === 'garbage') return GARBAGE[nth % GARBAGE.length]!;
    const best = model === 'hesitates' ? null : nearest(question, sentences);
    const say =
      model === 'lies' && sentences.length > 0
        ? lie(nth, best ?? sentences[0]!, sentences)
        : best && [{ from: [best.id], text: best.text, quote: best.text }];
    if (!say) return JSON.stringify({ known: false, say: [] });
    return JSON.stringify({ known: true, say: ownWords ? say : say.map(({ from }) => ({ from })) });
  }
}

const GARBAGE = [
  'I would be happy to help you with that!',
  '{"known": true, "say": [{"from": ["1.1"',
  '<html><body>502 Bad Gateway</body></html>',
  '{"known": "perhaps", "say": "everything"}',
  '[]',
];

const wordsOf = (text: string): string[] => text.toLowerCase().match(/\p{L}{3,}/gu) ?? [];

function nearest(question: string, sentences: readonly Sentence[]): Sentence | null {
  const asked = new Set(wordsOf(question));
  const shared = ({ text }: Sentence) => new Set(wordsOf(text).filter((word) => asked.has(word))).size;
  const most = Math.max(0, ...sentences.map(shared));
  return most === 0 ? null : sentences.find((sentence) => shared(sentence) === most)!;
}

/** Each is another way in which a model says what is not so. */
const LIES: ((best: Sentence, all: readonly Sentence[]) => Say[])[] = [
  ({ id, text }) => [{ from: [id], text: 'That costs £3.99 today, and is free for members.', quote: text }],
  ({ id }) => [{ from: [id], text: 'It is open until midnight.', quote: 'It is open until midnight.' }],
  ({ text }) => [{ from: ['99.1'], text, quote: text }],
  ({ id, text }) => [
    { from: [id], text: text.replace(/\d+/g, (number) => String(+number + 1)), quote: text },
  ],
  ({ id, text }) => [{ from: [id], text: text.replace(/\b(?:not|no|never) /gi, ''), quote: text }],
  ({ id, text }) => [{ from: [id], text: `${text} Ask for Dorian Quill on 0800 555 0199.`, quote: text }],
  ({ id, text }) => [{ from: [id], text: `${text} We promise you a full refund, always.`, quote: text }],
  ({ id, text }) => [{ from: [id], text: `Yes. ${text}`, quote: text }],
  ({ id, text }) => [{ from: [id], text: `${text} Book at https://cheap-tickets.example/now.`, quote: text }],
  (_, all) => all.slice(0, 20).map(({ id, text }) => ({ from: [id], text: text.repeat(9), quote: text })),
  ({ id, text }) => [
    { from: [id], text: `${text} The mayor recommends it warmly to families.`, quote: text },
  ],
];
const lie = (nth: number, best: Sentence, all: readonly Sentence[]): Say[] =>
  LIES[nth % LIES.length]!(best, all);
