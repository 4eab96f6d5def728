import type { ReactNode } from 'react';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import type { Cue } from '@dart-loop/core/engine/cues/index';

/** Writes entries of the cue; an entry that is undefined is removed. */
export type SetCue = (entries: Record<string, unknown>) => void;

export interface OwnProps<K extends Cue['kind']> {
  cue: Extract<Cue, { kind: K }>;
  set: SetCue;
  loop: Loop;
  known: LoopSurroundings | undefined;
}

/** A kind of cue as it is offered and edited: one file each, as in the core. */
export interface CueEditor<K extends Cue['kind']> {
  words: string;
  more: string;
  /** As it is before anybody has written in it; `name`: a word made from the loop's name. */
  fresh: (name: string) => Omit<Extract<Cue, { kind: K }>, 'id'>;
  /** What only this kind has. */
  Own: (props: OwnProps<K>) => ReactNode;
}

/** What was typed as a list, with commas or on lines of its own. */
export const listed = (typed: string, by: RegExp = /[,\n]/): string[] =>
  typed
    .split(by)
    .map((each) => each.trim())
    .filter(Boolean);

/** Nothing where the list is empty, so that it is not written down. */
export const none = <T>(list: T[]): T[] | undefined => (list.length > 0 ? list : undefined);
