import type { FileValue, PlaceValue } from '../../people/person';
import type { Background, DeliveredEvent, OptedOutElsewhere, SaidElsewhere, TimerEvent } from '../steps';
import { Turn } from '../run/turn';
import type { World } from '../run/world';
import { fromPerson } from './person';
import { finished, nothing, type Response } from './response';
import { fromStaff } from './staff';
import { fromBackground, fromElsewhere, fromErrand, fromTimer, turnComes } from './unasked';

/** What the person did, already read from the channel's format. */
export type FromPerson =
  | { kind: 'text'; text: string }
  | { kind: 'tap'; runId: string; stepId: string; choiceId: string; label: string }
  | { kind: 'reference'; ref: string | null; ad: string | null; text: string | null }
  | { kind: 'menu'; item: string }
  | { kind: 'file'; file: FileValue }
  | { kind: 'place'; place: PlaceValue }
  | {
      kind: 'comment';
      verb: 'add' | 'edited' | 'removed';
      id: string;
      postId: string;
      text: string;
      /** When it was written, and when its post was, in ms; the latter null where it is not known. */
      at: number;
      postedAt: number | null;
      /** Whether it answers another comment. */
      nested: boolean;
    }
  /** The person has blocked the line on the platform, or has unblocked it. */
  | { kind: 'blocked'; on: boolean }
  | { kind: 'other'; what: string };

/** What staff do with a conversation. */
export type FromStaff =
  | { kind: 'step in'; by: string }
  | { kind: 'write'; by: string; text: string }
  /** Somebody answered in the platform's own inbox: it is recorded, and the loop holds still. */
  | { kind: 'wrote elsewhere'; by: string; text: string }
  | { kind: 'hand back'; by: string; how: 'resume' | 'end' | { scene: string } };

/** What reaches a conversation. */
export type Incoming =
  | FromPerson
  | FromStaff
  | Background
  | TimerEvent
  | { kind: 'turn comes' }
  | SaidElsewhere
  | OptedOutElsewhere
  | DeliveredEvent
  | { kind: 'move'; runId: string; version: number }
  /** The loop is stopped: whoever is on the way in it is not led on. */
  | { kind: 'stop'; runId: string };

/**
 * The whole answer to one event: who answers, and what that does. Pure. Never throws on what people send; a
 * run whose version is gone is left alone.
 */
export function respond(world: World, incoming: Incoming): Response {
  const turn = new Turn(world);
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
      return fromPerson(turn, incoming);
    case 'step in':
    case 'write':
    case 'wrote elsewhere':
    case 'hand back':
      return fromStaff(turn, incoming);
    case 'timer':
      return fromTimer(turn, incoming, false);
    case 'said elsewhere':
      return fromElsewhere(turn, incoming);
    case 'opted out elsewhere':
      if (turn.standing.optedOut) return nothing(world);
      turn.changes.optedOutElsewhere();
      return finished(turn, null, 'settled');
    case 'turn comes':
      return turnComes(turn);
    case 'delivered':
      return fromErrand(turn, incoming);
    case 'move': {
      const run = turn.runs.get(incoming.runId);
      const version = run && world.version(run.loopId, incoming.version);
      if (!run || !version || !turn.playing.moveTo(run, version)) return nothing(world);
      return finished(turn, null, null);
    }
    case 'stop': {
      const run = turn.runs.get(incoming.runId);
      if (!run) return nothing(world);
      turn.runs.stop(run);
      return finished(turn, null, turn.runs.underWay.length > 0 || turn.standing.held ? null : 'settled');
    }
    case 'tag':
    case 'list':
    case 'field':
    case 'date':
    case 'silence':
    case 'lead':
    case 'webhook':
    case 'start':
      return fromBackground(turn, incoming, false);
  }
}

export type { Response } from './response';
