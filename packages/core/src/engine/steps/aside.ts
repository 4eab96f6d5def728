import type { Value } from '../../people/person';
import type { Offer } from './fromSources';
import type { Span } from '../../language/replies/reading';

/**
 * What stands between the step and the person beside its own text: a question of ours about the answer, or
 * the times (ms) that they were offered.
 */
export type Aside =
  | { kind: 'times'; times: number[] }
  /** Whether somebody who cannot come wants to cancel, or another time. */
  | { kind: 'cancel or move' }
  | { kind: 'did you mean'; typed: Value; suggested: Value }
  | { kind: 'is that right'; value: Value }
  | { kind: 'which of'; values: Value[] }
  | { kind: 'which in'; span: Span }
  | { kind: 'still right'; value: Value }
  /** What was named of several so far, by its labels. */
  | { kind: 'anything else'; values: string[] }
  /**
   * The fields still open where one message may answer several, what was asked about the first, and what is
   * to be asked about others; none: all of them are shown back.
   */
  | { kind: 'parts'; open: string[]; about?: Aside; then?: AskedBack[] }
  | Answering;

/** How far a conversation with the sources has come. */
export interface Answering {
  kind: 'answering';
  /** What the sources are being asked; null while the person has the word. */
  asking: string | null;
  /** What was asked last, for questions that go on from it. */
  before: string | null;
  /** How many questions were answered, and how many in a row were not known. */
  said: number;
  unknown: number;
  /** The passages that the person was offered, and the how many-eth message asked for them. */
  offered: Offer[];
  round: number;
}

/** A question of ours about an answer. */
export interface AskedBack {
  field: string;
  text: string;
  /** What merge fields of the text may name beside all else, where the builder has worded it. */
  fills?: Record<string, Value>;
  choices: { id: string; label: string }[];
  aside: Extract<Aside, { kind: 'did you mean' | 'is that right' | 'which of' | 'which in' | 'still right' }>;
}
