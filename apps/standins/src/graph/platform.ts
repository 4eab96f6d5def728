import type { Response } from 'express';
import type { Account, Json, Thread } from './account';
import type { GraphKind } from './limits';
import type { Seen } from './seen';
import type { StandinClock } from '../mood';
import { CannotBeDone, type PhoneAd, type PhoneButton, type PhoneDo, type PhoneMessage } from '../phone';

/** What an account can be asked or told that is the same on all three platforms behind the Graph API. */
export interface GraphWorld {
  readonly clock: StandinClock;
  /** Whether the platforms' pace is kept. */
  readonly limits: boolean;
  /** Whether deliveries and readings are reported. */
  readonly reports: boolean;
  /** Private answers to comments that came too soon. */
  refusedPrivately: number;
  nextId(): number;
  thread(account: Account, who: string, name: string): Thread;
  /** Hands events to the account's webhook, those of one thread one after the other; whether it took them. */
  deliver(account: Account, thread: Thread | null, content: object, time?: number): Promise<boolean>;
  /** A message that was sent stands on the phone from now on, and is reported. */
  took(account: Account, who: string, thread: Thread, id: string, body: Json, seen: Seen): void;
  /** Whether an address is a webhook that knows the word. */
  answersChallenge(address: string, word: string): Promise<boolean>;
}

/** What somebody does in a thread, once it is open. */
export interface InThread {
  account: Account;
  who: string;
  thread: Thread;
  /** What they wrote stands on their phone. */
  mine(text: string, media?: string): void;
  /** They have been heard, which opens the window. */
  heard(byAd?: boolean): void;
}

export type ThreadDo = Exclude<PhoneDo, { do: 'comment' | 'edit comment' | 'remove comment' | 'lead form' }>;
export type CommentDo = Extract<PhoneDo, { do: 'comment' | 'edit comment' | 'remove comment' }>;

/** One platform behind the Graph API: what it answers, takes, and tells. */
export interface GraphPlatform {
  readonly kind: GraphKind;
  /** What its webhooks call themselves. */
  readonly object: string;
  somebody(taken: (id: string) => boolean): string;
  /** The account's own page; null where the path is none of its own. */
  get(account: Account, path: string[]): object | null;
  /** Whatever is posted but messages. */
  post(account: Account, path: string[], body: Json, response: Response): void | Promise<void>;
  /** Takes something away; absent where nothing can be. */
  remove?(account: Account, path: string[], body: Json, response: Response): void;
  /** A message, of an account that may send. */
  send(account: Account, body: Json, response: Response): void;
  delivered(account: Account, who: string, id: string): void;
  read(account: Account, who: string, id: string): void;
  comment(account: Account, who: string, what: CommentDo): Promise<boolean>;
  act(at: InThread, what: ThreadDo): Promise<boolean>;
}

export const DAY = 86_400_000;
export const APP = '700100200300';

/** The account's name as an address would have it. */
export const nameOf = (account: Account): string =>
  account.name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '.')
    .replace(/^\.|\.$/g, '');

/** What an account says of itself. */
export const pageOf = (account: Account): object => ({
  id: account.id,
  name: account.name,
  username: nameOf(account),
});

/** The button that somebody taps, and the message that it stands under. */
export function tapped(
  thread: Thread,
  { messageId, data }: Extract<ThreadDo, { do: 'tap' }>,
): { message: PhoneMessage; button: PhoneButton } {
  const message = thread.messages.find((each) => each.id === messageId);
  const button = message?.buttons.find((each) => each.data === data);
  if (!message || !button) throw new CannotBeDone('there is no such button');
  return { message, button };
}

/** The ad that somebody clicks. */
export function clicked(account: Account, { adId }: Extract<ThreadDo, { do: 'click ad' }>): PhoneAd {
  const ad = account.ads.find((each) => each.id === adId);
  if (!ad) throw new CannotBeDone('there is no such ad');
  return ad;
}

/** Milliseconds as the Graph API's whole seconds. */
export const seconds = (ms: number): string => String(Math.floor(ms / 1_000));
