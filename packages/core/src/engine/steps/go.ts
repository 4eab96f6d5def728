import { z } from 'zod';
import { FieldKey, LocalId, Target } from '../../loops/model/basics';
import type { Value } from '../../people/person';
import { go as leadTo, type Outcome, type Play, type StepKind } from './step';

/** How many items a scene is played for, where the step does not say. */
const USUAL_ITEMS = 10;
export const MOST_ITEMS = 20;

/** Goes to a scene, or to another loop of the client (by its name), with return or without. */
export const Go = z
  .object({
    id: LocalId,
    kind: z.literal('go'),
    to: Target.optional(),
    loop: z.string().trim().min(1).max(80).optional(),
    /** A scene of the other loop; its first, when left out. */
    scene: LocalId.optional(),
    /** Comes back to the next step when the other loop is over, or the scene has no more steps. */
    back: z.boolean().optional(),
    /**
     * Plays the scene once for every item of a field: for each of several options, or from 1 to a number; at
     * most `most` times. Each is the answer `as` (item, when left out), its place `<as>_number`.
     */
    each: z
      .object({
        field: FieldKey,
        most: z
          .number()
          .int()
          .min(1)
          .max(MOST_ITEMS, `a scene is played for at most ${MOST_ITEMS} items`)
          .optional(),
        as: FieldKey.max(30).optional(),
      })
      .strict()
      .optional(),
  })
  .strict()
  .refine(
    (step) => (step.to === undefined) !== (step.loop === undefined),
    'a go leads either "to" a scene or to a "loop"',
  )
  .refine((step) => step.loop !== undefined || step.scene === undefined, '"scene" goes with a loop')
  .refine(
    (step) => !step.back || step.loop !== undefined || (step.to !== 'next' && step.to !== 'end'),
    'a go comes "back" from a scene or a loop',
  )
  .refine(
    (step) => step.each === undefined || (step.to !== undefined && step.back === true),
    'a scene that is played for "each" item is gone to with "back: true"',
  );
export type Go = z.infer<typeof Go>;

/** Whether it goes to a scene of its own loop and comes back. */
export const returns = (step: { kind: string }): step is Go & { to: Target } => {
  const { kind, to, back } = step as Go;
  return kind === 'go' && to !== undefined && back === true;
};

/** Whether it always comes to its scene first: one that is played for each item may have none. */
export const alwaysVisits = (step: { kind: string }): boolean => returns(step) && step.each === undefined;

/** Under which names a scene that is played for each item finds it. */
export const itemNames = ({ as = 'item' }: NonNullable<Go['each']>): [item: string, number: string] => [
  as,
  `${as}_number`,
];

export const go: StepKind<Go> = {
  enter(step, play) {
    if (step.loop !== undefined)
      return { kind: 'call', loop: step.loop, scene: step.scene, back: step.back ?? false };
    play.note({ code: 'went', to: play.where(step.to!) });
    return step.back ? visit(step, play) : leadTo(step.to!);
  },
  exits: (step) =>
    step.to === undefined
      ? []
      : [{ kind: 'go', words: step.back ? 'goes, and back' : 'goes', to: step.to, path: ['to'] }],
  fallsTo: (step) =>
    !step.back
      ? []
      : [
          {
            by: 'itself',
            words:
              step.loop !== undefined
                ? `back from “${step.loop}”`
                : step.each
                  ? `nothing in ${step.each.field.replaceAll('_', ' ')}`
                  : '',
          },
        ],
  texts: () => [],
  words: (step) =>
    step.loop === undefined
      ? step.each
        ? `for each of ${step.each.field.replaceAll('_', ' ')}, and back`
        : step.back
          ? 'and back'
          : ''
      : `to the loop “${step.loop}”${step.scene ? `, scene ${step.scene}` : ''}${step.back ? ', and back' : ''}`,
};

function visit(step: Go, play: Play): Outcome {
  const to = step.to!;
  if (!step.each) return { kind: 'visit', to };
  const { most = USUAL_ITEMS, field } = step.each;
  const all = itemsOf(play.world.person.fields[field], most);
  if (all.length === 0) {
    play.note({ code: 'no items', field });
    return leadTo('next');
  }
  const [item, number] = itemNames(step.each);
  return { kind: 'visit', to, each: { items: all, item, number } };
}

/** The items of a value: its labels, or the figures up to it. */
function itemsOf(value: Value | undefined, most: number): Value[] {
  if (value?.type === 'several of')
    return value.value.slice(0, most).map((label) => ({ type: 'text', value: label }));
  if (value?.type !== 'number') return [];
  return Array.from({ length: Math.max(0, Math.min(most, Math.floor(value.value))) }, (_, at) => ({
    type: 'number',
    value: at + 1,
  }));
}
