import { z } from 'zod';
import { FieldKey, LocalId, NEXT, TagName } from '../../model/basics';
import type { FieldType } from '../../model/person';
import { readReply } from '../../words/replies';
import { go, type StepKind } from './step';

export const Change = z.discriminatedUnion('do', [
  z.object({ do: z.literal('field'), field: FieldKey, value: z.string().max(1_000) }).strict(),
  z.object({ do: z.literal('add tag'), tag: TagName }).strict(),
  z.object({ do: z.literal('remove tag'), tag: TagName }).strict(),
]);
export type Change = z.infer<typeof Change>;

/** Sets fields and puts tags on or takes them off, silently. */
export const SetStep = z
  .object({ id: LocalId, kind: z.literal('set'), changes: z.array(Change).min(1, 'a set needs something to set').max(20) })
  .strict();
export type SetStep = z.infer<typeof SetStep>;

export const set: StepKind<SetStep> = {
  enter(step, play) {
    for (const change of step.changes) {
      if (change.do !== 'field') {
        const on = change.do === 'add tag';
        play.tag(change.tag, on);
        play.note({ code: 'tag', tag: change.tag, on });
        continue;
      }
      const type: FieldType = play.world.fields[change.field] ?? 'text';
      const reading = readReply(type, play.merge(change.value), { country: play.world.client.country });
      if (!reading.ok) play.note({ code: 'field not set', field: change.field, reason: reading.reason });
      else {
        play.setField(change.field, reading.value);
        play.note({ code: 'field set', field: change.field, value: reading.value });
      }
    }
    return go(NEXT);
  },
  exits: () => [],
};
