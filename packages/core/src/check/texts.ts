import { kindOf, type Step } from '../run/steps';

/** Every text of a step that may hold merge fields. */
export function textsOf(step: Step): string[] {
  return kindOf(step)
    .texts(step)
    .filter((text) => text !== '');
}
