import { kindOf, type Step } from '../../engine/steps';

/** Every text of a step that may hold merge fields. */
export function textsOf(step: Step): string[] {
  return kindOf(step)
    .texts(step)
    .filter((text) => text !== '');
}
