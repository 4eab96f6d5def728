import type { LineCaps, PlatformNote } from '@dart-loop/contract';
import type {
  Background,
  ChannelKind,
  FromPerson,
  FromStaff,
  Menus,
  Outgoing,
  QuietByChannel,
  Template,
  Via,
} from '@dart-loop/core';

/** A line with its secrets opened, as adapters need it. Never logged. */
export interface OpenLine {
  clientId: number;
  id: number;
  key: string;
  name: string;
  channel: ChannelKind;
  account: Record<string, string>;
  secrets: Record<string, string>;
  hookToken: string;
  caps: LineCaps;
  /** Of the client, in whose days caps are counted. */
  timeZone: string;
  /** When nothing goes out unasked, by the person's own clock. */
  quiet: QuietByChannel;
}

/** A request to a webhook, before anything is believed. */
export interface HookRequest {
  header(name: string): string | undefined;
  body: Buffer;
}

/** One event, taken out of a channel's format. */
export interface Received {
  /** The platform's id of the event, unique on its line. */
  providerId: string;
  /** The platform's own order of events on the line, where it counts them without gaps. */
  place: number | null;
  /** When the person did it, in ms; null where the platform does not say. */
  at: number | null;
  /** Who the person is on this line: a chat id, a number. */
  address: string;
  profile: {
    firstName: string | null;
    lastName: string | null;
    handle: string | null;
    language?: string | null;
  };
  incoming:
    FromPerson | Extract<FromStaff, { kind: 'wrote elsewhere' }> | Extract<Background, { kind: 'lead' }>;
  /** What is shown as the person's words. */
  words: string;
}

/** What became of messages of ours: those with these ids, or all to the person up to a moment (ms). */
export interface StatusReport {
  status: 'delivered' | 'read' | 'failed' | 'outside window';
  address: string;
  ids: string[] | null;
  upTo: number | null;
  at: number | null;
  failure: Failure | null;
}

/** A lead form that was submitted, as it is told. */
export interface Lead {
  id: string;
  form: string;
  ad: string | null;
  at: number | null;
}

export interface HookReading {
  received: Received[];
  /**
   * Signed, but not understood: a sentence each, and a request that holds this part alone, so that it can be
   * read again.
   */
  aside: { kind?: AsideKind; reason: string; body: string }[];
  statuses?: StatusReport[];
  /** Lead forms that were submitted; what was answered is asked for. */
  leads?: Lead[];
  /** The channel has changed its mind about a template: they are asked for again. */
  templatesChanged?: boolean;
  /**
   * Accounts that entries of the request are for, other than the line's own: one webhook may serve several.
   */
  others?: string[];
  /** Done once the events are stored, best effort, such as ending a tapped button's waiting sign. */
  afterwards?: (() => Promise<void>)[];
}

/**
 * Why something lies aside: the platform's words are not understood, an event was refused by the database,
 * deciding it failed, or nobody can be met yet for a lead form.
 */
export type AsideKind = 'not understood' | 'not stored' | 'not decided' | 'lead form';

/** Why a channel did not take something, in plain words, and what to do about it. */
export interface Failure {
  code: string;
  reason: string;
  remedy: string;
  /** We were only asked to be slower: nothing is wrong with the line, which goes on by itself. */
  onlyTooFast?: boolean;
}

/**
 * What became of one message. `again`: try later, at the soonest after `afterMs`; `holds` says for whom
 * sending waits meanwhile.
 */
export type Sent =
  | { kind: 'sent'; providerId: string }
  | {
      kind: 'again';
      holds: 'line' | 'conversation';
      afterMs: number | null;
      failure: Failure;
      lineFails: boolean;
    }
  | { kind: 'outside window'; failure: Failure }
  | { kind: 'failed'; failure: Failure };

/** What a builder types to connect a line, read into what is kept. */
export type Connecting =
  | { ok: true; account: Record<string, string>; name: string; secrets: Record<string, string> }
  | { ok: false; field: string; failure: Failure };

/**
 * How one channel's public interface is spoken. A new channel is one file with an `Adapter`, plus its line in
 * the index.
 */
export interface Adapter {
  kind: ChannelKind;
  /** The templates that the channel has for the line, with their states; absent where it has none. */
  templates?(line: OpenLine): Promise<{ templates: Template[] } | { failure: Failure }>;
  /** Puts menus on the channel; why it refused them, or null. Absent where it has none. */
  putMenus?(menus: Menus, line: OpenLine): Promise<Failure | null>;
  /** The menus that the channel has, or why they cannot be read. */
  lookAtMenus?(line: OpenLine): Promise<{ menus: Menus } | { failure: Failure }>;
  /** Which part of a line's account tells it from the channel's other lines. */
  accountKey: string;
  /**
   * Messages a second on the whole line, the pause between two in one conversation in ms, and private answers
   * to comments an hour.
   */
  rate: { perSecond: number; conversationPauseMs: number; privateRepliesPerHour?: number };
  /** As `rate`, of one line, where the channel's lines differ in it. */
  rateOf?(account: Record<string, string>): Adapter['rate'];
  /**
   * Whether the platform drops a repeated idempotency key, so that a crash after its answer repeats nothing.
   */
  dropsRepeats: boolean;
  /** Whether the request comes from the platform: checked on the raw body, in constant time. */
  verify(request: HookRequest, line: OpenLine): boolean;
  /** What a platform that asks whether the webhook is ours (GET) is answered; null when it asks wrongly. */
  challenge?(query: URLSearchParams, hookToken: string): string | null;
  read(request: HookRequest, line: OpenLine): HookReading;
  send(
    outgoing: Outgoing,
    address: string,
    line: OpenLine,
    idempotencyKey: string,
    via: Via | null,
  ): Promise<Sent>;
  /** What the platform says of somebody whose events do not name them; null where it does not. */
  profile?(address: string, line: OpenLine): Promise<Received['profile'] | null>;
  /** When a post was made, and its text; null where the platform does not say. */
  post?(postId: string, line: OpenLine): Promise<{ created_time: string; message?: string } | null>;
  /** What was answered in a lead form, by the form's names; null when the platform does not say. */
  lead?(leadId: string, line: OpenLine): Promise<Record<string, string> | null>;
  /** Shows the person that something is being written; absent where the channel cannot. Best effort. */
  typing?(address: string, line: OpenLine): Promise<void>;
  /** What of the account had to be typed to connect it, so that a renewal needs its secrets alone. */
  typedOf(account: Record<string, string>): Record<string, string>;
  /** Which account the typed secrets are for; null when that cannot be told. */
  accountOf(typed: Record<string, string>): Promise<string | null>;
  /** Checks what was typed, asks the platform, and points its webhook here. */
  connect(typed: Record<string, string>, hookToken: string, hookAddress: string): Promise<Connecting>;
  /** Asks the platform whether the line works; null when it does. */
  test(line: OpenLine, hookAddress: string): Promise<Failure | null>;
  /**
   * What the platform says of the line beside that: what it could not deliver to us, what it does not hand
   * over, how good the number is. Null where it could not be asked; absent where it has nothing to say.
   */
  notes?(line: OpenLine): Promise<PlatformNote[] | null>;
  /** Takes the webhook off the platform; best effort. */
  disconnect(line: OpenLine): Promise<void>;
}
