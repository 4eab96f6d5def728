import { durationMs, durationWords } from '../../loops/model/basics';
import type { PersonFacts } from '../../people/person';
import type { Cue } from '../cues';

/**
 * Why a cue may not start its loop for this person now; null when it may. `running` says whether the loop is
 * under way with them.
 */
export function whyNotAgain(
  cue: Cue,
  loopId: string,
  person: PersonFacts,
  running: boolean,
  now: number,
): string | null {
  const passage = person.history[loopId];
  const fired = passage?.cues[cue.id];
  const again = cue.again ?? 'always';
  if (typeof again === 'object') {
    if (fired !== undefined && fired + durationMs(again.onceIn) > now)
      return `it has started for this person within the last ${durationWords(again.onceIn)}, and may once in that time`;
  } else if (again === 'once' && fired !== undefined)
    return 'it has started for this person before, and may only once';
  else if (
    again === 'after finishing' &&
    passage &&
    (passage.finished === null || passage.finished < passage.started)
  )
    return 'the person has begun this loop and not finished it, and it may start again only after that';
  else if (again === 'not while running' && running)
    return 'the loop is under way with this person, and may not start meanwhile';
  if (running && cue.whileRunning === 'ignore')
    return 'the loop is under way with this person, and the cue is ignored meanwhile';
  return null;
}
