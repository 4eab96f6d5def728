import type { Incoming } from '../engine/decide';

/** So long after the person has written, what another system answers still belongs to that. */
const BELONGS_MS = 15 * 60_000;

/**
 * Whether somebody who talks with us now has caused an event, so that what is sent because of it is an
 * answer. All else is sent unasked: caps, quiet hours, how often, and lists apply to it. A kind that is new
 * here counts as unasked until somebody has thought about it, and the compiler asks for that.
 */
export function isAsked(
  incoming: Incoming,
  { now, lastHeardAt }: { now: number; lastHeardAt: number | null },
): boolean {
  switch (incoming.kind) {
    case 'text':
    case 'tap':
    case 'reference':
    case 'menu':
    case 'file':
    case 'place':
    case 'comment':
    case 'blocked':
    case 'other':
    case 'lead':
      return true;
    // The team has the conversation, and knows what it says.
    case 'step in':
    case 'write':
    case 'wrote elsewhere':
    case 'left the team':
    case 'hand back':
      return true;
    case 'timer':
      return incoming.what === 'gathered';
    case 'delivered':
      return lastHeardAt !== null && now - lastHeardAt <= BELONGS_MS;
    case 'said elsewhere':
    case 'opted out elsewhere':
    case 'turn comes':
    case 'tag':
    case 'list':
    case 'field':
    case 'date':
    case 'silence':
    case 'webhook':
    case 'start':
    case 'move':
    case 'stop':
      return false;
    default:
      return isForgotten(incoming);
  }
}

const isForgotten = (_kind: never): false => false;
