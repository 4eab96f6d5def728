import { answersTo, type Answered } from '@dart-loop/core/answers/answering';
import type { BriefFacts } from '@dart-loop/core/answers/brief';
import { notSaid, type FromSources } from '@dart-loop/core/engine/steps/fromSources';
import { SourceIndex } from '@dart-loop/core/answers/finding';
import type { Passage } from '@dart-loop/core/answers/passage';
import { fitsChannel } from '@dart-loop/core/answers/saying';
import { runSheet, type SheetResult, type SheetRow } from '@dart-loop/core/answers/sheet';
import { toSay } from '@dart-loop/core/answers/toSay';
import type { ChannelKind } from '@dart-loop/core';

/** A client's sources as they stood at a revision. */
export interface Held {
  clientId: number;
  revision: number;
  passages: Passage[];
}

/** What is asked of them. */
export interface AskedOfSources {
  clientId: number;
  revision: number;
  client: BriefFacts;
  now: number;
  channel: ChannelKind | null;
  before: string | null;
}

/** Passages of all clients that one process has in mind. Whose were asked longest ago are let go of first. */
const MOST_HELD = 60_000;

/** By client, whose were asked last at the end. Of the thread that this stands in. */
const indexes = new Map<number, { revision: number; index: SourceIndex }>();

/** Keeps a client's sources in mind, and takes over what was known of those that have not changed. */
export function hold({ clientId, revision, passages }: Held): void {
  const index = new SourceIndex(passages, indexes.get(clientId)?.index);
  indexes.delete(clientId);
  indexes.set(clientId, { revision, index });
  let all = [...indexes.values()].reduce((sum, each) => sum + each.index.passages.length, 0);
  for (const [id, each] of indexes) {
    if (all <= MOST_HELD || id === clientId) break;
    indexes.delete(id);
    all -= each.index.passages.length;
  }
}

function heldOf({ clientId, revision }: AskedOfSources): SourceIndex | null {
  const held = indexes.get(clientId);
  if (held?.revision !== revision) return null;
  indexes.delete(clientId);
  indexes.set(clientId, held);
  return held.index;
}

const askingOf = ({ client, now, channel, before }: AskedOfSources) => ({
  ...{ client, now, before },
  fits: fitsChannel(channel ?? 'telegram'),
});

export function askHeld(asked: AskedOfSources & { message: string }): Answered[] | null {
  const index = heldOf(asked);
  return index && answersTo(index, asked.message, askingOf(asked));
}

/** The same as an `answer` step is given it; a message without words asks nothing. */
export function askToSayHeld(asked: AskedOfSources & { message: string }): FromSources | null {
  const index = heldOf(asked);
  if (!index) return null;
  const asking = askingOf(asked);
  const said = toSay(index, answersTo(index, asked.message, asking), asking.fits);
  return said.length > 0 ? said : [notSaid(asked.message)];
}

export function askSheetHeld(asked: AskedOfSources & { rows: SheetRow[] }): SheetResult[] | null {
  const index = heldOf(asked);
  return index && runSheet(index, asked.rows, askingOf(asked));
}
