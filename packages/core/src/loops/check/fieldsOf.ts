import type { Loop } from '../model/loop';
import { questionsOf } from '../../engine/steps';
import type { FieldTypes } from '../../people/person';

/**
 * The fields a loop writes, with the type each must have. Fields that a `set` alone writes are text, or
 * numbers where they are calculated with, days where they are reckoned.
 */
export function fieldsOf(loop: Loop): FieldTypes {
  const types: FieldTypes = {};
  const steps = loop.scenes.flatMap((scene) => scene.steps);
  for (const step of steps)
    if (step.kind === 'ask') for (const { field, reply } of questionsOf(step)) types[field] ??= reply;
  for (const step of steps)
    if (step.kind === 'set')
      for (const change of step.changes) {
        if (change.do === 'calculate') types[change.field] ??= 'number';
        if (change.do === 'date') types[change.field] ??= 'date';
      }
  for (const cue of loop.cues) if (cue.kind === 'date') types[cue.field] ??= 'date';
  for (const step of steps) {
    if (step.kind === 'wait' && step.until && 'field' in step.until) types[step.until.field] ??= 'date';
    if (step.kind === 'set')
      for (const change of step.changes) {
        if (change.do === 'copy') types[change.field] ??= types[change.from] ?? 'text';
        if (change.do === 'field' || change.do === 'now') types[change.field] ??= 'text';
      }
    if (step.kind === 'book') {
      types[step.day] ??= 'date';
      types[step.time] ??= 'time';
    }
    if (step.kind === 'send out') for (const { field } of step.reply ?? []) types[field] ??= 'text';
  }
  return types;
}

/** Every field that a loop writes, compares or merges. */
export function fieldsIn(loop: Loop): Set<string> {
  const { takes: _takes, accepted: _accepted, ...told } = loop;
  const written = JSON.stringify(told);
  return new Set([
    ...Object.keys(fieldsOf(loop)),
    ...[...written.matchAll(/\bperson\.([a-z][a-z0-9_]{0,39})/g)].map((found) => found[1]!),
    ...[...written.matchAll(/"(?:field|from)":"([a-z][a-z0-9_]{0,39})"/g)].map((found) => found[1]!),
  ]);
}
