import { z } from 'zod';
import type { Decision, Outgoing } from '@dart-loop/core';

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
  channel: 'telegram' | 'sms';
  lastWords: string;
  lastAt: string;
  waitingSince: string | null;
  loop: string | null;
}
export interface InboxPage {
  counts: { waiting: number; running: number; settled: number };
  rows: InboxRow[];
  next: string | null;
}

export type Entry =
  | { kind: 'in'; id: string; seq: number; at: string; words: string; tapped: boolean }
  | { kind: 'stage'; id: string; seq: number; at: string; words: string[]; decision: Decision | null }
  | {
      kind: 'out';
      id: string;
      seq: number;
      at: string;
      body: Outgoing;
      status: 'queued' | 'sent' | 'failed';
      sentAt: string | null;
      attempts: number;
      failure: { reason: string; remedy: string } | null;
    };

export interface ConversationPage {
  id: string;
  who: string;
  channel: 'telegram' | 'sms';
  line: { name: string };
  shelf: 'waiting on us' | 'running' | 'settled';
  waitingSince: string | null;
  person: { id: string; fields: { key: string; name: string; words: string }[]; tags: string[] } | null;
  loop: { id: string; name: string } | null;
  entries: Entry[];
  /** Earlier entries are asked for with `before` this place. */
  before: number | null;
}
export const ConversationQuery = z.object({ before: z.coerce.number().int().positive().optional() });
