import type { Channel, Outgoing } from '../channels';
import type { Template } from '../channels/template';
import { fromTemplate } from '../channels/templates';
import { durationWords } from '../loops/model/basics';
import type { Said } from '../channels/said';

const DAY = 86_400_000;
/** A private answer to a comment may be given within seven days, once (Messenger and Instagram). */
export const PRIVATE_REPLY_WITHIN = 7 * DAY;
/** What is held back because the person has not written is dropped after this. */
export const HELD_AT_MOST = 7 * DAY;

/**
 * How a message goes where it is no plain answer: privately under a comment, publicly under it, by hand after
 * the window, or as a template.
 */
export type Via =
  | { kind: 'private reply'; commentId: string }
  | { kind: 'public reply'; commentId: string }
  | { kind: 'by hand, late' }
  | { kind: 'template'; template: Template };

/** What of a conversation says whether its line may write; times in ms. */
export interface Reached {
  heardFrom: boolean;
  lastHeardAt: number | null;
  optedIn: boolean;
  openUntil: number | null;
  comment: { id: string; at: number; answered: boolean } | null;
}

/**
 * Whether something may be said now. `until` (ms): no later than then; null: at any time. `waits`: held back
 * until the person writes, and why.
 */
export type Permission =
  | { may: 'go'; until: number | null; via: Via | null }
  | { may: 'wait'; reason: string }
  /** It may not go, and the step would rather say nothing than say it later. */
  | { may: 'drop'; reason: string };

/**
 * The channel's own rules on when a line may write: see channels.md for each. Opting out goes before this,
 * quiet hours come beside it.
 */
export function permission(channel: Channel, standing: Reached, now: number, byHand: boolean): Permission {
  const { window, name } = channel;
  if (window === null) {
    if (standing.heardFrom || standing.optedIn) return { may: 'go', until: null, via: null };
    return {
      may: 'wait',
      reason:
        channel.kind === 'sms'
          ? 'no opt-in to SMS is known, and the person has never written here'
          : `a line on ${name} cannot write first, and the person has never written here`,
    };
  }
  const open = windowEnd(channel, standing);
  if (open !== null && now < open) return { may: 'go', until: open, via: null };
  const heard = standing.lastHeardAt;
  if (byHand && heard !== null && now < heard + window.byHand)
    return { may: 'go', until: heard + window.byHand, via: { kind: 'by hand, late' } };
  const { comment } = standing;
  if (comment?.answered)
    return {
      may: 'wait',
      reason: 'the comment was answered, and nothing more may follow until the person writes',
    };
  if (comment && now < comment.at + PRIVATE_REPLY_WITHIN)
    return {
      may: 'go',
      until: comment.at + PRIVATE_REPLY_WITHIN,
      via: { kind: 'private reply', commentId: comment.id },
    };
  if (open === null)
    return {
      may: 'wait',
      reason: `a line on ${name} cannot write first, and the person has never written here`,
    };
  return {
    may: 'wait',
    reason: `${name} lets a line write for ${hours(window.loop)} after the person has, and that time is over`,
  };
}

/** When the reply window shuts (ms); null when the person has never written or the channel has no window. */
export function windowEnd({ window }: Channel, standing: Reached): number | null {
  if (window === null) return null;
  return standing.openUntil ?? (standing.lastHeardAt === null ? null : standing.lastHeardAt + window.loop);
}

const hours = (ms: number) => durationWords(`${Math.round(ms / 3_600_000)}h`);

/**
 * What is sent of a `say`, with when each message may go. A private answer to a comment is a single message:
 * what does not fit into it follows once the person has written.
 */
export function sendings(
  channel: Channel,
  said: Said,
  may: Permission,
): { body: Outgoing; may: Permission }[] {
  const single = may.may === 'go' && may.via?.kind === 'private reply';
  if (may.may === 'go' && may.via?.kind === 'template' && said.whenShut?.do === 'template')
    return [{ body: fromTemplate(may.via.template, said.whenShut, said), may }];
  const { media, ...bare } = said;
  const bodies = channel.render(
    single && media
      ? { ...bare, text: [said.text.trim(), media.address].filter((line) => line !== '').join('\n') }
      : said,
  );
  const later: Permission = {
    may: 'wait',
    reason: 'a comment is answered with one message, and nothing more may follow until the person writes',
  };
  return bodies.map((body, index) => ({ body, may: single && index > 0 ? later : may }));
}
