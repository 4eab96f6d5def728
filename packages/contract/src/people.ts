import { z } from 'zod';
import type { ChannelKind, TakePerson } from '@dart-loop/core';

export const PeopleQuery = z.object({ q: z.string().trim().max(100).default(''), after: z.string().max(80).optional() });

export interface PersonRow {
  id: string;
  name: string;
  channels: ChannelKind[];
  /** The first few facts in words: "email mira@example.org". */
  facts: string[];
  tags: string[];
  lastSeenAt: string;
}
export interface PeoplePage {
  total: number;
  rows: PersonRow[];
  next: string | null;
}

/** Who or what changed something, in words, with the place to go to. */
export interface By {
  words: string;
  loopId: string | null;
  stepId: string | null;
}
/** What a rehearsal takes over of somebody. */
export type PersonForRehearsal = Omit<TakePerson, 'id'> & { name: string };

export interface PersonPage {
  id: string;
  name: string;
  createdAt: string;
  lastSeenAt: string;
  identities: {
    id: string;
    channel: ChannelKind;
    line: string;
    address: string;
    handle: string | null;
    since: string;
    optedOut: boolean;
  }[];
  facts: { key: string; name: string; type: string; words: string; at: string | null; by: By | null }[];
  tags: { tag: string; at: string | null; by: By | null }[];
  lists: { list: string; at: string | null; by: By | null }[];
  history: { at: string; words: string; by: By }[];
  runs: { id: string; loop: string; loopId: string; version: number; status: string; startedAt: string; endedAt: string | null }[];
}
