import { z } from 'zod';
import type { ChannelKind, Decision, Outgoing, Via } from '@dart-loop/core';

/** What one of the team does with a conversation. */
export const ConversationAct = z.discriminatedUnion('do', [
  z.object({ do: z.literal('step in') }),
  z.object({
    do: z.literal('write'),
    text: z
      .string()
      .trim()
      .min(1, 'write something first')
      .max(4_096, 'a message has at most 4,096 characters'),
  }),
  z.object({
    do: z.literal('hand back'),
    how: z.union([z.enum(['resume', 'end']), z.object({ scene: z.string().min(1).max(16) })]),
  }),
]);
export type ConversationAct = z.infer<typeof ConversationAct>;

export const SHELVES = ['waiting', 'running', 'settled'] as const;
export const InboxQuery = z.object({
  shelf: z.enum(SHELVES).default('waiting'),
  client: z.string().max(80).optional(),
  before: z.string().max(80).optional(),
});

export interface InboxRow {
  client: { slug: string; name: string };
  id: string;
  who: string;
  channel: ChannelKind;
  lastWords: string;
  lastAt: string;
  waitingSince: string | null;
  loop: string | null;
  /** Who of the team has it, or who it is meant for. */
  held: { by: string | null; team: string | null } | null;
}
export interface InboxPage {
  counts: { waiting: number; running: number; settled: number };
  rows: InboxRow[];
  next: string | null;
}

export type Entry =
  | {
      kind: 'in';
      id: string;
      seq: number;
      at: string;
      words: string;
      /** Said, tapped, written under a post, or answered by the team elsewhere. */
      how: 'said' | 'tapped' | 'commented' | 'elsewhere';
      /** The text of the post that was commented on, where it is known. */
      post: string | null;
    }
  | { kind: 'stage'; id: string; seq: number; at: string; words: string[]; decision: Decision | null }
  | {
      kind: 'out';
      id: string;
      seq: number;
      at: string;
      body: Outgoing;
      /** Who of the team wrote it; null for a loop. */
      by: string | null;
      status: 'queued' | 'held' | 'sent' | 'failed';
      /** How it goes where it is no plain answer. */
      via: Via['kind'] | null;
      sentAt: string | null;
      deliveredAt: string | null;
      readAt: string | null;
      attempts: number;
      failure: { reason: string; remedy: string } | null;
    };

export interface ConversationPage {
  id: string;
  who: string;
  channel: ChannelKind;
  line: { name: string };
  shelf: 'waiting on us' | 'running' | 'settled';
  waitingSince: string | null;
  person: { id: string; fields: { key: string; name: string; words: string }[]; tags: string[] } | null;
  /** The loop that is under way, with the scenes it can be taken up from. */
  loop: { id: string; name: string; scenes: { id: string; name: string }[] } | null;
  /** A person has it, or is to have it. */
  held: { by: string | null; since: string; team: string | null; note: string } | null;
  optedOut: boolean;
  entries: Entry[];
  /** Earlier entries are asked for with `before` this place. */
  before: number | null;
}
/** What could be written to somebody who waits, in the words of the client's sources. */
export interface Draft {
  text: string;
  /** Where it stands. */
  from: string;
  /** Whether it answers, or only comes near. */
  isSure: boolean;
}
export interface DraftsPage {
  drafts: Draft[];
}
/** `after`: what the person wrote last, so that drafts of before are asked for anew. */
export const DraftsQuery = z.object({ after: z.coerce.number().int().positive().optional() });

export const ConversationQuery = z.object({ before: z.coerce.number().int().positive().optional() });
