import type { FieldTypes } from '../model/person';
import { findScene, type Loop } from '../model/loop';
import { exitsOf, type Step } from '../run/steps';
import { parseMerge } from '../words/merge';

/** What stands in the way of publishing. `sceneId` and `stepId` name the place, where there is one. */
export interface Problem {
  code: 'no scene' | 'no cue' | 'empty scene' | 'double id' | 'missing target' | 'merge field' | 'field type' | 'unknown line';
  sceneId: string | null;
  stepId: string | null;
  /** One sentence that says what is wrong and what is expected. */
  reason: string;
}

/**
 * What makes a loop unfit to be published. `types` are the client's fields with their types, `lineKeys` the client's
 * lines; both may be left out where they are not known, as for a file on its own.
 */
export function problemsOf(loop: Loop, known: { types?: FieldTypes; lineKeys?: string[] } = {}): Problem[] {
  const problems: Problem[] = [];
  const add = (code: Problem['code'], reason: string, sceneId: string | null = null, stepId: string | null = null) =>
    problems.push({ code, sceneId, stepId, reason });

  if (loop.cues.length === 0) add('no cue', 'Nothing starts this loop yet: add a keyword to it.');
  if (loop.scenes.length === 0) add('no scene', 'There is no scene yet: add one with at least one step.');
  for (const key of known.lineKeys ? [...loop.lines, ...loop.cues.flatMap((cue) => cue.lines ?? [])] : [])
    if (!known.lineKeys!.includes(key)) add('unknown line', `The client has no line with the key “${key}”.`);

  const ids = new Map<string, string>();
  const claim = (id: string, what: string, sceneId: string | null, stepId: string | null) => {
    const other = ids.get(id);
    if (other) add('double id', `The id “${id}” is used by ${other} and by ${what}; each needs its own.`, sceneId, stepId);
    else ids.set(id, what);
  };
  for (const cue of loop.cues) claim(`cue:${cue.id}`, `a cue`, null, null);
  const fieldTypes = new Map<string, string>(Object.entries(known.types ?? {}));
  for (const [index, scene] of loop.scenes.entries()) {
    const where = `scene ${index + 1} (${scene.name})`;
    claim(`scene:${scene.id}`, where, scene.id, null);
    if (scene.steps.length === 0)
      add('empty scene', `Scene ${index + 1} (${scene.name}) has no steps; add one or remove the scene.`, scene.id);
    for (const step of scene.steps) {
      claim(`step:${step.id}`, `a step in ${where}`, scene.id, step.id);
      if (step.kind === 'say') {
        const choiceIds = step.choices?.map((choice) => choice.id) ?? [];
        const twice = choiceIds.find((id, at) => choiceIds.indexOf(id) !== at);
        if (twice) add('double id', `Two choices in ${where} have the id “${twice}”.`, scene.id, step.id);
      }
      for (const exit of exitsOf(step))
        if (exit.to !== 'next' && exit.to !== 'end' && !findScene(loop, exit.to))
          add('missing target', `“${exit.words}” in ${where} leads to the scene “${exit.to}”, which is not there.`, scene.id, step.id);
      for (const text of textsOf(step))
        for (const problem of parseMerge(text).problems) add('merge field', `In ${where}: ${problem.reason}.`, scene.id, step.id);
      if (step.kind === 'ask') {
        const before = fieldTypes.get(step.field);
        if (before && before !== step.reply)
          add(
            'field type',
            `The question in ${where} reads a reply of type ${step.reply} into the field “${step.field}”, which is of type ${before}.`,
            scene.id,
            step.id,
          );
        fieldTypes.set(step.field, before ?? step.reply);
      }
    }
  }
  return problems;
}

/** Every text of a step that may hold merge fields. */
export function textsOf(step: Step): string[] {
  if (step.kind === 'say')
    return [step.text, ...(step.choices ?? []).map((choice) => choice.label), ...(step.retry ? [step.retry.text] : [])];
  if (step.kind === 'ask') return [step.text, ...(step.retry ? [step.retry.text] : [])];
  if (step.kind === 'set') return step.changes.flatMap((change) => (change.do === 'field' ? [change.value] : []));
  return [];
}

/** The fields a loop writes, with the type each must have. Fields that a `set` alone writes are text. */
export function fieldsOf(loop: Loop): FieldTypes {
  const types: FieldTypes = {};
  for (const scene of loop.scenes)
    for (const step of scene.steps) {
      if (step.kind === 'ask') types[step.field] ??= step.reply;
    }
  for (const scene of loop.scenes)
    for (const step of scene.steps)
      if (step.kind === 'set') for (const change of step.changes) if (change.do === 'field') types[change.field] ??= 'text';
  return types;
}
