import { mergeName, type MergeName } from '../../language/writtenMerge';
import { itemNames } from '../../engine/steps/go';
import { fieldsOf } from '../check/fieldsOf';
import type { Loop } from '../model/loop';

const BRIEF = ['hours', 'address', 'phone', 'booking_link', 'privacy_link'];

/**
 * What the texts of a loop can merge, in the order in which it is offered: the person's fields (those the
 * client knows, then those that the loop fills), what a repeated scene is played for, the client, its brief.
 */
export function mergeNamesOf(
  loop: Loop,
  fields: readonly { key: string }[],
  brief: Readonly<Record<string, unknown>>,
  files: Readonly<Record<string, unknown>> = {},
): MergeName[] {
  const steps = loop.scenes.flatMap((scene) => scene.steps);
  const paths = [
    'person.first_name',
    ...fields.map(({ key }) => `person.${key}`),
    ...Object.keys(fieldsOf(loop)).map((key) => `person.${key}`),
    ...steps.flatMap((step) =>
      step.kind === 'go' && step.each ? itemNames(step.each).map((key) => `answers.${key}`) : [],
    ),
    'client.name',
    ...[...BRIEF, ...Object.keys(brief)].map((key) => `brief.${key}`),
    ...Object.keys(files).map((key) => `file.${key}`),
  ];
  const taken = new Set<string>();
  return [...new Set(paths)].map((path) => {
    const name = mergeName(path);
    const words = taken.has(name) ? path.replace('.', ': ') : name;
    taken.add(words);
    return { path, words };
  });
}
