import type { Exit, Target } from '../../model/basics';
import type { ClientFacts, LineFacts } from '../../model/client';
import type { FieldTypes, PersonFacts, Value } from '../../model/person';

/** A `say` or question as it is handed to a channel: text already merged, choices with what a tap brings back. */
export interface Said {
  text: string;
  choices: { ref: string; label: string }[];
}

/** What a run wants done in the world. The edge does it, all of one event in one transaction. */
export type Effect =
  | { kind: 'send'; said: Said; stepId: string }
  | { kind: 'set field'; field: string; before: Value | null; after: Value; stepId: string }
  | { kind: 'tag'; tag: string; on: boolean; stepId: string }
  | { kind: 'timer'; dueAt: number; turn: number };

/** What happened, kept as facts; `stage.ts` puts it into words. */
export type Note =
  | { code: 'cue heard'; loop: string; keyword: string; match: string }
  | { code: 'late tap'; loop: string; label: string }
  | { code: 'run replaced'; loop: string }
  | { code: 'choice read'; label: string; how: 'tap' | 'letter' | 'number' | 'label' | 'close to its label'; to: string }
  | { code: 'reply read'; type: Value['type']; field: string; value: Value }
  | { code: 'could not read'; reason: string; tries: number; of: number }
  | { code: 'gave up'; to: string }
  | { code: 'no reply'; after: string; to: string }
  | { code: 'field set'; field: string; value: Value }
  | { code: 'field not set'; field: string; reason: string }
  | { code: 'tag'; tag: string; on: boolean }
  | { code: 'went'; to: string }
  | { code: 'finished'; loop: string }
  | { code: 'circle'; scene: string }
  | { code: 'unusable'; reason: string }
  | { code: 'nobody'; reason: string };

/** What a step may look at. Time comes in as a value: `now` in milliseconds since 1970, UTC. */
export interface StepWorld {
  now: number;
  client: ClientFacts;
  line: LineFacts;
  fields: FieldTypes;
}

/** What a step may do while it is played: everything ends up in the returned effects, notes and person. */
export interface Play {
  readonly world: StepWorld;
  readonly person: PersonFacts;
  merge(text: string): string;
  /** How a target reads in the script, for notes. */
  where(target: Target): string;
  say(text: string, choices?: { id: string; label: string }[]): void;
  setField(field: string, value: Value): void;
  tag(tag: string, on: boolean): void;
  note(note: Note): void;
}

/** What the person sent, as a waiting step sees it. */
export type Reply = { kind: 'text'; text: string } | { kind: 'choice'; choiceId: string };

/** Where a step leads once played. */
export type Outcome = { kind: 'wait' } | { kind: 'go'; to: Target };

export const WAIT: Outcome = { kind: 'wait' };
export const go = (to: Target): Outcome => ({ kind: 'go', to });

/** One kind of step: how it is played, what it can read, and where it leads. */
export interface StepKind<S> {
  /** Plays the step on reaching it. */
  enter(step: S, play: Play): Outcome;
  /** Whether the waiting step can read the reply; `take` then plays it. Absent on steps that never wait. */
  read?(step: S, reply: Reply, world: StepWorld): { ok: true; take(play: Play): Outcome; summary: string } | { ok: false; reason: string };
  exits(step: S): Exit[];
}
