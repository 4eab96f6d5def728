import { whyNotAgain } from './again';
import type { HeardCue } from './cueIndex';
import { conditionWords } from '../../people/conditionWords';
import { holds } from '../../people/holds';
import type { Turn } from '../run/turn';

/** Why a cue that hears the event may not start its loop for this person now; null when it may. */
export function whyNotNow(turn: Turn, { cue, loopId }: HeardCue): string | null {
  const { world } = turn;
  if (cue.who && holds(cue.who, turn.stepWorld(null)) !== true)
    return `it hears only those of whom this holds: ${conditionWords(cue.who)}`;
  const running = world.runs.some((run) => run.loopId === loopId);
  return whyNotAgain(cue, loopId, world.person, running, world.now);
}
