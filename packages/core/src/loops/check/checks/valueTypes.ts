import type { FieldType } from '../../../people/person';
import { questionsOf } from '../../../engine/steps';
import { readReply } from '../../../language/replies';
import { check } from '../check';

/** Answers and values that do not fit the type of their field. */
export const valueTypes = check<'field type' | 'value'>(function* ({ places, known }) {
  const types = new Map<string, FieldType>(Object.entries(known.types ?? {}));
  for (const { step, where, at } of places) {
    if (step.kind === 'ask') {
      for (const [index, { field, reply }] of questionsOf(step).entries()) {
        const type = types.get(field);
        if (type && type !== reply)
          yield {
            ...at,
            code: 'field type',
            severity: 'stops',
            about: field,
            reason: `The question in ${where} reads a reply of type ${reply} into the field “${field}”, which is of type ${type}.`,
            fix: freeField(field, step.id, index === 0 ? ['field'] : ['also', index - 1, 'field'], types),
          };
        types.set(field, type ?? reply);
      }
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

function freeField(
  field: string,
  stepId: string,
  path: (string | number)[],
  types: ReadonlyMap<string, FieldType>,
) {
  let name = field;
  for (let n = 2; types.has(name); n++) name = `${field.slice(0, 36)}_${n}`;
  return {
    words: `Store it in “${name}”`,
    edits: [{ edit: 'step' as const, stepId, path, value: name }],
  };
}
