import { z } from 'zod';
import {
  type AdQuestions,
  type ChannelKind,
  Loop,
  type Problem,
  type Surroundings,
  type Template,
  type WayIn,
} from '@dart-loop/core';

export const SaveDraft = z.object({ revision: z.number().int().min(1), loop: Loop });
/** `at`: not now but then; what is published is the draft as it is now. */
export const Publish = z.object({
  revision: z.number().int().min(1),
  at: z.iso.datetime({ offset: true }).optional(),
});
export const LOOP_STATES = ['live', 'paused', 'stopped', 'never published', 'archived'] as const;
export type LoopState = (typeof LOOP_STATES)[number];
/** Paused: nobody new starts, those on the way go on. Stopped: those on the way are ended. */
export const ChangeState = z.object({ state: z.enum(['live', 'paused', 'stopped']) });
export const Archive = z.object({ archived: z.boolean() });
/** Where somebody is in a loop; `screen` tells two windows of one person apart. */
export const Here = z.object({ screen: z.string().min(1).max(40), stepId: z.string().max(40).nullable() });
export interface SomebodyHere {
  loopId: string;
  screen: string;
  name: string;
  stepId: string | null;
}

/** Something that was done with a loop. */
export interface LoopEvent {
  at: string;
  by: string | null;
  words: string;
}
export const RollBack = z.object({ version: z.number().int().min(1) });

export interface VersionRow {
  version: number;
  publishedAt: string;
  publishedBy: string | null;
  /** What it changed, in words. */
  changes: string[];
  live: boolean;
  /** People on the way on this version. */
  peopleInIt: number;
}
export const NewLoop = z.object({
  name: z.string().trim().min(1, 'a loop needs a name').max(80, 'a name has at most 80 characters'),
});
export const ImportLoop = z.object({
  file: z.string().min(1, 'the file is empty').max(1_000_000, 'the file is larger than 1,000,000 characters'),
});
export const ExportAs = z.object({ as: z.enum(['yaml', 'json']).default('yaml') });

export interface LoopRow {
  id: string;
  name: string;
  /** Cues in words, one each. */
  cues: string[];
  state: LoopState;
  liveVersion: number | null;
  draftAhead: boolean;
  peopleInIt: number;
  finishedThisWeek: number;
  problems: number;
}

export interface LoopPage {
  id: string;
  revision: number;
  draft: Loop;
  savedAt: string;
  savedBy: string | null;
  state: LoopState;
  live: { version: number; publishedAt: string; publishedBy: string | null } | null;
  /** When the draft of an earlier moment is going to be published; why that could not be done. */
  scheduled: { at: string; by: string | null } | null;
  scheduleFailed: string | null;
  /** What differs from the live version, in words; everything, where none is live. */
  differences: string[];
  problems: Problem[];
  peopleInIt: number;
  /** How many people wait at each step, by step id. */
  onTheWay: Record<string, number>;
  /** How many people reached each step of the live version, by step id. */
  reached: Record<string, number>;
  lines: { key: string; name: string; channel: ChannelKind; templates: Template[] }[];
  brief: Record<string, string>;
  /** The addresses of the client's files, by their names in texts. */
  files: Record<string, string>;
  fields: { key: string; type: string; name: string }[];
}

/** What checks and rehearsals of a loop need to know beside it. */
export interface LoopSurroundings extends Required<Omit<Surroundings, 'limits' | 'lines' | 'person'>> {
  lines: LoopPage['lines'];
  /** Names of fields, for people. */
  fieldNames: Record<string, string>;
}

/**
 * How many people went from one step to the next, by the two: "a>b"; "a>" where their run was over after it.
 */
export interface Passages {
  passed: Record<string, number>;
}

/** Answer to a draft that was saved by somebody else meanwhile (409). */
export interface DraftConflict {
  revision: number;
  draft: Loop;
  savedBy: string | null;
}

/** What can be handed out for the live version. */
export interface WaysInPage {
  client: string;
  loop: string;
  /** `picture`: where its QR code is drawn, at an address that stays; null where there is no link. */
  ways: (WayIn & { channel: ChannelKind; picture: string | null })[];
  /** The first questions, for the ad that opens the loop; null where none does. */
  adQuestions: AdQuestions | null;
}
