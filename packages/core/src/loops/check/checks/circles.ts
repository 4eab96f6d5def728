import { cueWords } from '../../../engine/cues';
import type { Loop } from '../../model/loop';
import { check, whereWords } from '../check';
import { circleWithoutWaiting, raisedBy, startsOn } from '../ways';

/** Circles that never wait for the person: within the loop, and over loops that start each other. */
export const circles = check<'circle' | 'loops in a circle'>(function* ({ loop, known }) {
  const circle = circleWithoutWaiting(loop, known.others);
  if (circle) {
    const here = circle.find((each) => each.loop === loop)!;
    const alone = circle.every((each) => each.loop === loop);
    const round = circle
      .map((each) => `${alone ? '' : `“${each.loop.name}”, `}${whereWords(each.loop, each.place.scene.id)}`)
      .filter((each, at, all) => each !== all[at - 1])
      .join(', then ');
    yield {
      code: 'circle',
      severity: 'stops',
      sceneId: here.place.scene.id,
      stepId: here.place.step.id,
      reason: `${alone ? 'The loop goes' : 'Loops go'} round without ever waiting for the person: ${round}, and again. Let one of them ask or wait.`,
    };
  }
  const started = startedInACircle(loop, known.others ?? []);
  if (started) yield { code: 'loops in a circle', severity: 'warns', reason: started };
});

/**
 * Loops that start each other by tags, lists and fields, back to this one. The engine stops such a chain; the
 * builder should know.
 */
function startedInACircle(loop: Loop, others: Loop[]): string | null {
  const all = [loop, ...others.filter((other) => other.name !== loop.name)];
  const next = (from: Loop) => all.filter((to) => raisedBy(from).some((what) => startsOn(to).includes(what)));
  const trail: Loop[] = [];
  const seen = new Set<Loop>();
  const visit = (at: Loop): Loop[] | null => {
    trail.push(at);
    for (const to of next(at)) {
      if (to === loop) return [...trail, loop];
      if (seen.has(to)) continue;
      seen.add(to);
      const found = visit(to);
      if (found) return found;
    }
    trail.pop();
    return null;
  };
  const circle = visit(loop);
  if (!circle) return null;
  const cue = loop.cues.find((each) => ['tag', 'list joined', 'field changed'].includes(each.kind));
  return `Loops start each other in a circle: ${circle.map((each) => `“${each.name}”`).join(', then ')}${cue ? ` (by ${cueWords(cue)})` : ''}. It is cut off after five starts without the person; end it earlier, such as by letting the cue start once.`;
}
