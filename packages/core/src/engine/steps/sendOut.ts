import { z } from 'zod';
import { DestinationName, FieldKey, LocalId, NEXT, Target } from '../../loops/model/basics';
import { readReply } from '../../language/replies';
import { mergeJson } from '../../language/merge';
import { valueAt } from '../../sync/path';
import { OutsideAddress } from './outsideAddress';
import { BY_ITSELF, go, readingWorld, type StepKind } from './step';

/** Any JSON, its texts with merge fields; a text that is one field alone keeps the field's type. */
const Body = z.json();

/**
 * Sends out to one of the client's destinations, by its name, as that is mapped; the run goes on at once. Or
 * a signed webhook with a JSON body of its own: the run waits for the answer, which can fill fields.
 */
export const SendOut = z
  .object({
    id: LocalId,
    kind: z.literal('send out'),
    destination: DestinationName.optional(),
    address: OutsideAddress.optional(),
    body: Body.optional(),
    /** Which parts of the answer go into which fields: a path such as "customer.id". */
    reply: z
      .array(
        z
          .object({
            from: z
              .string()
              .regex(/^[\w-]+(\.[\w-]+)*$/, 'a path is names with dots between, such as "customer.id"')
              .max(200),
            field: FieldKey,
          })
          .strict(),
      )
      .max(30)
      .optional(),
    /** Where it leads when it could not be delivered after all tries, or its answer was a refusal. */
    failed: Target.optional(),
  })
  .strict()
  .superRefine((step, context) => {
    if ((step.destination === undefined) === (step.address === undefined))
      context.addIssue({
        code: 'custom',
        path: ['destination'],
        message: 'a send out goes to a destination or to an address: say one of them',
      });
    for (const part of ['body', 'reply', 'failed'] as const)
      if (step.destination !== undefined && step[part] !== undefined)
        context.addIssue({
          code: 'custom',
          path: [part],
          message: `a destination has its own mapping and its own tries; “${part}” belongs to an address`,
        });
  });
export type SendOut = z.infer<typeof SendOut>;

export const sendOut: StepKind<SendOut> = {
  enter(step, play) {
    if (step.address === undefined) {
      play.deliver(step.destination!);
      play.note({ code: 'to be delivered', destination: step.destination! });
      return go(NEXT);
    }
    play.sendOut(step.address, mergeJson(step.body ?? {}, play.world));
    play.note({ code: 'sent out', host: new URL(step.address).host });
    return { kind: 'wait', for: 'errand' };
  },
  delivered(step, outcome, play) {
    const to = outcome.ok ? NEXT : (step.failed ?? NEXT);
    play.note({ code: 'delivered', ok: outcome.ok, reason: outcome.reason, to: play.where(to) });
    if (outcome.ok)
      for (const { from, field } of step.reply ?? []) {
        const found = valueAt(outcome.body, from);
        if (found === undefined || found === null || typeof found === 'object') {
          play.note({
            code: 'field not set',
            field,
            reason: `the answer has no text or number at “${from}”`,
          });
          continue;
        }
        const { world } = play;
        const reading = readReply(world.fields[field] ?? 'text', String(found), {
          ...readingWorld(world),
          days: 'any',
        });
        if (reading.ok) {
          play.setField(field, reading.value);
          play.note({ code: 'field set', field, value: reading.value });
        } else play.note({ code: 'field not set', field, reason: reading.reason });
      }
    return go(to);
  },
  exits: (step) =>
    step.failed ? [{ kind: 'not delivered', words: 'not delivered', to: step.failed, path: ['failed'] }] : [],
  fallsTo: (step) =>
    step.address === undefined
      ? BY_ITSELF
      : [{ by: 'delivered', words: step.failed ? 'delivered' : 'delivered or not' }],
  texts: (step) => textsIn(step.body),
  words: (step) => `to ${step.destination ?? step.address}`,
};

function textsIn(value: unknown): string[] {
  if (typeof value === 'string') return [value];
  if (value !== null && typeof value === 'object') return Object.values(value).flatMap(textsIn);
  return [];
}
