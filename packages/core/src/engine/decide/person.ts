import { durationMs } from '../../loops/model/basics';
import type { Turn } from '../run/turn';
import type { FromPerson } from './incoming';
import { fromComment } from './comment';
import { listensOn } from './cueIndex';
import { Asking, askPlaces } from './places';
import { finished, nothing, won, type Response } from './response';

/**
 * What a person did is answered by the first of the twelve places that takes it. A comment and a block have
 * ways of their own.
 */
export function fromPerson(turn: Turn, incoming: FromPerson): Response {
  // Place 1.
  if (turn.world.repeated) return repeatedDelivery(turn);
  if (incoming.kind === 'comment') return fromComment(turn, incoming);
  if (incoming.kind === 'blocked') return fromBlock(turn, incoming.on);
  const isFirst = !turn.standing.heardFrom;
  turn.voice.hearPerson(incoming.kind === 'reference' && incoming.ad !== null);
  const { unseen } = turn.standing;
  turn.standing.unseen = [];
  beginSilences(turn);
  const asking = new Asking(turn, incoming, isFirst, unseen);
  turn.words = asking.text;
  return askPlaces(asking);
}

/** The same event was delivered before. */
function repeatedDelivery({ world }: Turn): Response {
  const reason = 'the same event was delivered before, and is decided once';
  return { ...nothing(world), decision: { candidates: [won('repeated delivery', 'nobody', reason)] } };
}

/** Each cue that waits for silence begins to wait anew. */
function beginSilences(turn: Turn): void {
  const { cues, line, now } = turn.world;
  const since = turn.standing.lastHeardAt ?? now;
  for (const silence of cues.silences) {
    if (!listensOn(silence, line.key)) continue;
    const { loopId, cue } = silence;
    turn.setTimer(`silence:${loopId}:${cue.id}`, since + durationMs(cue.after), {
      kind: 'silence',
      loopId,
      cueId: cue.id,
      since,
    });
  }
}

/** A block is an opt-out of the line, and what undoes it undoes no other. */
function fromBlock(turn: Turn, on: boolean): Response {
  const { standing } = turn;
  const changes = on ? !standing.optedOut : standing.blocked;
  if (changes)
    turn.changes.consent(on ? 'opt-out' : 'opt-in', on ? '(blocked the line)' : '(unblocked the line)', null);
  standing.blocked = on && (changes || standing.blocked);
  if (on) standing.held = null;
  const reason = on
    ? 'the person has blocked the line, which is an opt-out'
    : 'the person has unblocked the line';
  return finished(turn, { candidates: [won('opt-out, opt-in or help word', 'the program itself', reason)] });
}
