import { languageOfText } from '../../language/spoken';
import { knownLanguageOf } from '../../people/person';
import { Turn } from '../run/turn';
import type { World } from '../run/world';
import type { Incoming } from './incoming';
import { fromPerson } from './person';
import { finished, nothing, type Response } from './response';
import { fromStaff } from './staff';
import { fromBackground, fromElsewhere, fromErrand, fromTimer, turnComes } from './unasked';

/** The language that somebody writes in, of those the client speaks, where nothing says it yet. */
function languageToldBy({ client, person }: World, incoming: Incoming): string | null {
  if (incoming.kind !== 'text' || client.languages.length < 2) return null;
  if (person.language || knownLanguageOf(person, client) !== null) return null;
  return languageOfText(incoming.text, client.languages);
}

/**
 * The whole answer to one event: who answers, and what that does. Pure. Never throws on what people send; a
 * run whose version is gone is left alone.
 */
export function respond(world: World, incoming: Incoming): Response {
  const spoken = languageToldBy(world, incoming);
  const turn = new Turn(spoken ? { ...world, person: { ...world.person, language: spoken } } : world);
  if (spoken) turn.note({ code: 'language told', language: spoken });
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
    case 'left the team':
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
export type { FromPerson, FromStaff, Incoming } from './incoming';
