import { usableForAnybody } from '../../../channels/templates';
import { check } from '../check';

/** Templates that no line has, or that do not fit what they stand for. */
export const templates = check<'template'>(function* ({ places, lines }) {
  if (lines.length === 0) return;
  const all = lines.flatMap((line) => line.templates ?? []);
  for (const { step, where, at } of places) {
    if (step.kind !== 'say' || step.whenShut?.do !== 'template') continue;
    const { name } = step.whenShut;
    const usable = usableForAnybody(all, step.whenShut);
    if (typeof usable === 'string')
      yield { ...at, code: 'template', severity: 'warns', about: name, reason: `In ${where}: ${usable}.` };
    else if ((step.choices?.length ?? 0) > usable.buttons.length)
      yield {
        ...at,
        code: 'template',
        severity: 'warns',
        about: name,
        reason: `In ${where}: the template “${name}” has ${usable.buttons.length} buttons for ${step.choices!.length} choices.`,
      };
  }
});
