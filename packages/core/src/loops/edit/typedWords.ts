import { type Loop } from '../model/loop';
import { kindOf } from '../../engine/steps';
import { typeInto } from './typedSteps';

/** What a line would add, in words; null where it would be said as it stands. */
export function typedWords(loop: Loop, at: { sceneId: string; index?: number }, line: string): string | null {
  if (line.trim() === '') return null;
  const before = new Map(loop.scenes.flatMap((scene) => scene.steps.map((step) => [step.id, step])));
  const { loop: after, stepIds, problem } = typeInto(loop, at, line);
  if (problem) return problem;
  const made = after.scenes.flatMap((scene) => scene.steps).find((step) => stepIds.includes(step.id));
  if (made?.kind === 'say') return null;
  if (made?.kind === 'ask') return `ask: “${made.text}”, read as ${made.reply}, saved in ${made.field}`;
  if (made) return `${made.kind}: ${kindOf(made).words(made) || line.trim()}`;
  const changed = after.scenes
    .flatMap((scene) => scene.steps)
    .find((step) => before.has(step.id) && before.get(step.id) !== step);
  if (changed) return `to the ${changed.kind} above: ${line.trim()}`;
  return after.scenes.length > loop.scenes.length
    ? `a new scene: ${after.scenes.find((each) => !loop.scenes.some(({ id }) => id === each.id))!.name}`
    : null;
}
