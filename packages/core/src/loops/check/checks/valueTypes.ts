import type { FieldType } from '../../../people/person';
import { readReply } from '../../../language/replies';
import { check } from '../check';

/** Answers and values that do not fit the type of their field. */
export const valueTypes = check<'field type' | 'value'>(function* ({ places, known }) {
  const types = new Map<string, FieldType>(Object.entries(known.types ?? {}));
  for (const { step, where, at } of places) {
    if (step.kind === 'ask') {
      const type = types.get(step.field);
      if (type && type !== step.reply)
        yield {
          ...at,
          code: 'field type',
          severity: 'stops',
          about: step.field,
          reason: `The question in ${where} reads a reply of type ${step.reply} into the field “${step.field}”, which is of type ${type}.`,
          fix: freeField(step.field, step.id, types),
        };
      types.set(step.field, type ?? step.reply);
    }
    if (step.kind !== 'set') continue;
    for (const [index, change] of step.changes.entries()) {
      const type = change.do === 'field' ? types.get(change.field) : undefined;
      if (change.do !== 'field' || !type || /\{\{|\{%/.test(change.value)) continue;
      const reading = readReply(type, change.value, {
        country: 'GB',
        language: 'en',
        now: 0,
        zone: 'UTC',
        days: 'any',
      });
      if (!reading.ok)
        yield {
          ...at,
          code: 'value',
          severity: 'stops',
          about: `${index}.${change.field}`,
          reason: `The set in ${where} gives “${change.field}” the value “${change.value}”, which is no ${type}: ${reading.reason}.`,
        };
    }
  }
});

function freeField(field: string, stepId: string, types: ReadonlyMap<string, FieldType>) {
  let name = field;
  for (let n = 2; types.has(name); n++) name = `${field.slice(0, 36)}_${n}`;
  return {
    words: `Store it in “${name}”`,
    edits: [{ edit: 'step' as const, stepId, path: ['field'], value: name }],
  };
}
