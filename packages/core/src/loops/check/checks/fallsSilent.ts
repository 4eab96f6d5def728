import { waitingOf, type Step } from '../../../engine/steps';
import { check, type CheckWorld } from '../check';
import type { StepPlace } from '../../model/loop';
import { onAfterScene, type Way } from '../ways';

/** Answers after which the person hears nothing more. */
export const fallsSilent = check<'falls silent'>(function* (world) {
  for (const place of world.places) {
    const { step, where, at } = place;
    if (!waitingOf(step)) continue;
    for (const way of world.ways(place)) {
      if (!['answer', 'choice', 'booked'].includes(way.by) || !isOver(world, place, way)) continue;
      // "No thanks" may well be the end of it.
      if (step.kind === 'say' && way.target === 'end') continue;
      yield {
        ...at,
        code: 'falls silent',
        severity: 'warns',
        about: way.words,
        reason: `After ${step.kind === 'say' ? `“${way.words}”` : 'the answer'} in ${where} nothing happens: the person hears nothing back. Say a word, if it is only thanks.`,
      };
    }
  }
});

const heard = (step: Step) =>
  step.kind === 'say' ||
  step.kind === 'ask' ||
  step.kind === 'book' ||
  step.kind === 'answer' ||
  step.kind === 'hand over' ||
  (step.kind === 'go' && step.loop !== undefined);

/** Whether the person hears nothing after a way, also once a scene that was gone to has come back. */
function isOver(world: CheckWorld, { scene }: StepPlace, way: Way): boolean {
  const next = way.to || way.target === 'end' ? [way.to] : onAfterScene(world.loop, scene.id);
  return next.every((place) => silent(world, place, new Set()));
}

/** Whether the person hears nothing from here on, by any way. */
function silent(world: CheckWorld, place: StepPlace | null, seen: Set<string>): boolean {
  if (!place || seen.has(place.step.id)) return true;
  if (heard(place.step)) return false;
  seen.add(place.step.id);
  return world.ways(place).every((way) => silent(world, way.to, seen));
}
