import { z } from 'zod';
import { ChannelKind } from '@dart-loop/core/channels/channelKind';
import type { Came } from '@dart-loop/core/answers/came';
import { FileName } from './files';
import type { ModelTried } from './model';

/** What a client's questions are answered from, and how well that goes. */

const Question = z.string().trim().min(1, 'write a question').max(300, 'is at most 300 characters');
const Wordings = z.array(Question).max(50, 'at most 50 other wordings').default([]);

export const AddDocument = z.object({ name: FileName });

/** Pages of the web: one, all below its path, or the whole site; and how often they are read again. */
export const EVERY = ['by hand', 'day', 'week'] as const;
export const AddPages = z.object({
  address: z.string().trim().min(1, 'write an address').max(500, 'is at most 500 characters'),
  reach: z.enum(['page', 'below', 'site']),
  every: z.enum(EVERY).default('week'),
});
export type AddPages = z.infer<typeof AddPages>;
export const ChangeSource = z.object({ every: z.enum(EVERY) });

/** A question with its answer, and other ways of asking it. */
export const PairBody = z.object({
  question: Question,
  answer: z.string().trim().min(1, 'write the answer').max(2_000, 'is at most 2,000 characters'),
  wordings: Wordings,
});
export type PairBody = z.infer<typeof PairBody>;

/** `settles`: questions that could not be answered before, by their ids. */
export const AddPair = PairBody.extend({ settles: z.array(z.uuid()).max(1_000).default([]) });
export type AddPair = z.infer<typeof AddPair>;

export interface Pair extends PairBody {
  id: string;
  madeAt: string;
  madeBy: string | null;
}

/** Many pairs at once: CSV with the columns question, answer and, where there are any, wordings. */
export const PastedPairs = z.object({
  csv: z.string().min(1, 'paste some lines').max(500_000, 'is at most 500,000 characters'),
});

export interface Source {
  id: string;
  kind: 'document' | 'page' | 'below' | 'site';
  name: string;
  /** Of pages: where reading begins. */
  address: string | null;
  pages: number;
  passages: number;
  words: number;
  /** Why it could not be read the last time. */
  failure: string | null;
  readAt: string | null;
  every: (typeof EVERY)[number];
  /** While it is being read: pages that are done, and all that are known of. */
  reading: { done: number; total: number | null; isStopping: boolean } | null;
  changedAt: string | null;
  madeBy: string | null;
}

/** Everything that a client's questions are answered from. */
export interface SourcesPage {
  sources: Source[];
  pairs: Pair[];
  /** What the brief says by itself. */
  brief: { heading: string; text: string }[];
}

export interface SourcePassage {
  id: string;
  /** Outermost first. */
  headings: string[];
  /** As it was read. */
  text: string;
  /** What somebody of the agency wrote in its place. */
  corrected: string | null;
  isMuted: boolean;
  /** Questions that it was said to answer. */
  wordings: string[];
  /** How often somebody was answered with it. */
  used: number;
}

/** A source as the program has understood it. */
export interface SourcePageView {
  source: Source;
  pages: {
    id: string;
    title: string;
    address: string;
    words: number;
    state: 'waiting' | 'read' | 'nothing in it' | 'failed' | 'gone';
    /** Why there is nothing of it. */
    failure: string | null;
    readAt: string | null;
    changedAt: string | null;
    passages: SourcePassage[];
  }[];
}

/** What is left out stays as it is; `corrected` null: as it was read. */
export const ChangePassage = z.object({
  corrected: z
    .string()
    .trim()
    .min(1, 'write what it says')
    .max(4_000, 'is at most 4,000 characters')
    .nullable()
    .optional(),
  isMuted: z.boolean().optional(),
  wordings: z.array(Question).max(50, 'at most 50 other wordings').optional(),
});

export const AskSources = z.object({
  message: z.string().trim().min(1, 'ask something').max(2_000, 'is at most 2,000 characters'),
  /** What the same person asked last. */
  before: z.string().max(2_000).nullable().default(null),
  /** How long an answer may be. */
  channel: ChannelKind,
  /** Whether the hosted model is asked as well, where the sources alone are not sure: that costs. */
  withModel: z.boolean().default(false),
});
export type AskSources = z.infer<typeof AskSources>;

/** A passage as an answer shows it. */
export interface AnswerPassage {
  /** What it is kept as; null: it stands in the brief. */
  id: string | null;
  from: 'brief' | 'pair' | 'source';
  /** The source's name: a file, an address. */
  source: string;
  heading: string;
  text: string;
  /** The question's words that were met, or whose meaning was. */
  matched: string[];
}

/** What becomes of one question. */
export interface AnswerView {
  question: string;
  zone: 'answer' | 'offer' | 'not known';
  /** What is said; only where it is answered. */
  text: string | null;
  /** From 0 to 1. */
  sure: number;
  /** Parts of the SMS; null on other channels. */
  parts: number | null;
  /** Said from, or offered. */
  passages: AnswerPassage[];
  next: AnswerPassage[];
  /** Two that say otherwise than each other, where nothing is said for that. */
  disagree: AnswerPassage[];
  /** What the hosted model makes of it; null where it was not asked. */
  model: ModelTried | null;
}

/** A question is answered by this passage or pair, whoever asks it so again. */
export const ConfirmAnswer = z.object({ question: Question, id: z.uuid() });
export type ConfirmAnswer = z.infer<typeof ConfirmAnswer>;

/** Questions that ask for the same, and that the sources do not answer. */
export interface UnansweredGroup {
  /** As it was asked last; all ways of asking it; and the questions by their ids. */
  question: string;
  wordings: string[];
  ids: string[];
  count: number;
  lastAt: string;
  /** Not in the sources, in two of them that say otherwise, or none of what was offered. */
  why: 'not known' | 'disagree' | 'passed over';
  /** Where it was asked, the newest first. */
  asked: { conversationId: string; question: string; name: string; loop: string | null; at: string }[];
}
export interface UnansweredPage {
  /** Most asked first. */
  groups: UnansweredGroup[];
}

/** They are none of our business. */
export const SettleAsked = z.object({ ids: z.array(z.uuid()).min(1).max(1_000) });
export type SettleAsked = z.infer<typeof SettleAsked>;

const Part = z.string().trim().min(1).max(200, 'is at most 200 characters');
/** A question with what a right answer to it is. */
export const SheetQuestion = z.object({
  question: Question,
  /** The place that answers it; empty: any. */
  from: z.string().trim().max(300).default(''),
  contains: z.array(Part).max(10).default([]),
  lacks: z.array(Part).max(10).default([]),
  known: z.enum(['yes', 'no']).default('yes'),
  least: z.enum(['answer', 'offer', 'open']).default('offer'),
});
export type SheetQuestion = z.infer<typeof SheetQuestion>;

export interface SheetRowView extends SheetQuestion {
  id: string;
  /** How it came out; null: it was not asked yet. */
  came: Came | null;
  cameBefore: Came | null;
  isExpected: boolean | null;
  said: string | null;
  saidBefore: string | null;
}

export interface SheetRun {
  at: string;
  /** What had changed. */
  because: string;
  counts: Record<Came, number>;
  better: number;
  worse: number;
}

export interface SheetPage {
  rows: SheetRowView[];
  /** The last ones, newest first. */
  runs: SheetRun[];
  /** Whether the sources have changed since it was asked last. */
  isStale: boolean;
  /** Whether loops that answer are published only when all of it comes out as expected. */
  gates: boolean;
}

export const ChangeSheet = z.object({ gates: z.boolean() });
export type ChangeSheet = z.infer<typeof ChangeSheet>;

export const PastedSheet = z.object({
  csv: z.string().min(1, 'paste some lines').max(500_000, 'is at most 500,000 characters'),
});
