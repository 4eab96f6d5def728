import { createHash } from 'node:crypto';
import { answersTo, passagesNear, type Answered } from '@dart-loop/core/answers/answering';
import type { BriefFacts } from '@dart-loop/core/answers/brief';
import { notSaid, type FromSources } from '@dart-loop/core/engine/steps/fromSources';
import { encodedTexts, meaningsOf } from '@dart-loop/core/answers/encoder/meaning';
import type { SentenceEncoder } from '@dart-loop/core/answers/encoder/encoder';
import { SourceIndex } from '@dart-loop/core/answers/finding';
import type { Passage } from '@dart-loop/core/answers/passage';
import { fitsChannel } from '@dart-loop/core/answers/saying';
import { runSheet, type SheetResult, type SheetRow } from '@dart-loop/core/answers/sheet';
import { toSay } from '@dart-loop/core/answers/toSay';
import type { ChannelKind } from '@dart-loop/core';
import { readEncoder } from './encoderFiles';

/** A client's sources as they stood at a revision. */
export interface Held {
  clientId: number;
  revision: number;
  passages: Passage[];
  /** Whether all of their meaning was known when they were read. */
  areEncoded: boolean;
}

/** What a passage means, under the digest of what was encoded. */
export interface KnownMeaning {
  digest: string;
  meaning: Int8Array;
}

/** What was worked out; and the digests of all passages, where nothing is left. */
export interface Encoded {
  known: KnownMeaning[];
  digests: string[] | null;
}

/** What is told of the meaning of passages that are in mind; `from`: a file of the program. */
export interface Learnt {
  clientId: number;
  revision: number;
  from: string;
  known: KnownMeaning[];
}

/** What is asked of them. */
export interface AskedOfSources {
  clientId: number;
  revision: number;
  /** Whether all of their meaning is known by now. */
  areEncoded: boolean;
  client: BriefFacts;
  now: number;
  channel: ChannelKind | null;
  before: string | null;
}

/** Passages of all clients that one process has in mind. Whose were asked longest ago are let go of first. */
const MOST_HELD = 60_000;

interface Known {
  revision: number;
  areEncoded: boolean;
  index: SourceIndex;
  /** By their places, the digests of those whose meaning was not known when they were told. */
  digests: Map<number, string>;
}

/** By client, whose were asked last at the end. Of the thread that this stands in. */
const indexes = new Map<number, Known>();

/** Loaded when it is first needed, and kept as long as the thread. */
let encoder: SentenceEncoder | null = null;

/** Changes where what is encoded of a passage does. */
const ENCODED_AS = '1';

const digestOf = (passage: Passage): string =>
  createHash('sha256')
    .update([ENCODED_AS, ...encodedTexts(passage)].join('\0'))
    .digest()
    .subarray(0, 16)
    .toString('base64');

/**
 * Keeps a client's sources in mind, and takes over what was known of those that have not changed. Says the
 * digests of the passages whose meaning it does not know.
 */
export function hold({ clientId, revision, passages, areEncoded }: Held): string[] {
  const index = new SourceIndex(passages, indexes.get(clientId)?.index);
  if (encoder) index.learn(encoder, []);
  indexes.delete(clientId);
  const digests = new Map(index.unencoded().map((place) => [place, digestOf(index.passages[place]!)]));
  indexes.set(clientId, { revision, areEncoded, index, digests });
  let all = [...indexes.values()].reduce((sum, each) => sum + each.index.passages.length, 0);
  for (const [id, each] of indexes) {
    if (all <= MOST_HELD || id === clientId) break;
    indexes.delete(id);
    all -= each.index.passages.length;
  }
  return [...digests.values()];
}

/** Learns what passages mean. */
export function learn({ clientId, revision, from, known }: Learnt): void {
  const held = indexes.get(clientId);
  if (held?.revision !== revision) return;
  const byDigest = new Map(known.map(({ digest, meaning }) => [digest, meaning]));
  held.index.learn(
    (encoder ??= readEncoder(from)),
    [...held.digests].flatMap(([place, digest]) => {
      const meaning = byDigest.get(digest);
      return meaning ? [[place, meaning] as const] : [];
    }),
  );
}

/**
 * Works out what one more passage means, and no more, as whoever asks meanwhile waits for it; with the
 * digests of all where none is left. Null where the sources of that revision are not in mind.
 */
export function encodeNext({ clientId, revision, from }: Omit<Learnt, 'known'>): Encoded | null {
  const held = indexes.get(clientId);
  if (held?.revision !== revision) return null;
  const { index, digests } = held;
  const known: KnownMeaning[] = [];
  const [next] = index.unencoded();
  if (next !== undefined) {
    encoder ??= readEncoder(from);
    const [meaning] = meaningsOf(encoder, [index.passages[next]!]);
    known.push({ digest: digests.get(next)!, meaning: meaning! });
    learn({ clientId, revision, from, known });
  }
  const isLast = index.unencoded().length === 0;
  return {
    known,
    digests: isLast ? index.passages.map((passage, at) => digests.get(at) ?? digestOf(passage)) : null,
  };
}

function heldOf({ clientId, revision, areEncoded }: AskedOfSources): SourceIndex | null {
  const held = indexes.get(clientId);
  if (held?.revision !== revision) return null;
  // Another process has worked out meanwhile what they mean.
  if (areEncoded && !held.areEncoded && !held.index.knowsMeaning) return null;
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

/** What an `answer` step is given, and of what is not answered outright the passages that come near. */
export interface ToSay {
  said: FromSources;
  /** By the places of the questions in `said`. */
  near: { at: number; passages: Passage[] }[];
}

/** The same as an `answer` step is given it; a message without words asks nothing. */
export function askToSayHeld(asked: AskedOfSources & { message: string }): ToSay | null {
  const index = heldOf(asked);
  if (!index) return null;
  const asking = askingOf(asked);
  const answered = answersTo(index, asked.message, asking);
  if (answered.length === 0) return { said: [notSaid(asked.message)], near: [] };
  return {
    said: toSay(index, answered, asking.fits),
    near: answered
      .map((each, at) => ({ at, passages: passagesNear(each) }))
      .filter(({ passages }) => passages.length > 0),
  };
}

export function askSheetHeld(asked: AskedOfSources & { rows: SheetRow[] }): SheetResult[] | null {
  const index = heldOf(asked);
  return index && runSheet(index, asked.rows, askingOf(asked));
}
