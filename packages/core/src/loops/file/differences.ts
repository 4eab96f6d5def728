import { cueWords } from '../../engine/cues';
import type { Loop, Scene } from '../model/loop';
import { exitsOf, type Step } from '../../engine/steps';
import { sameJson } from '../../sameJson';

const NAMES: Record<Step['kind'], string> = {
  say: 'text',
  ask: 'question',
  wait: 'wait',
  set: 'set',
  split: 'split',
  vary: 'vary',
  go: 'go',
  'hand over': 'hand-over',
  alert: 'alert',
  'send out': 'sending out',
  book: 'booking',
  answer: 'answering',
  end: 'end',
};

/**
 * What is different in `after`, in words a builder reads: "scene 3: question reworded, exit added". One line
 * per scene, cue or setting; empty when the two are the same.
 */
export function differences(before: Loop, after: Loop): string[] {
  const lines: string[] = [];
  if (before.name !== after.name) lines.push(`renamed to “${after.name}”`);
  if (before.lines.join() !== after.lines.join()) lines.push('lines changed');
  if (before.list !== after.list)
    lines.push(
      after.list === undefined ? 'writes to no list any more' : `writes to the list “${after.list}”`,
    );
  const cuesBefore = new Map(before.cues.map((cue) => [cue.id, JSON.stringify(cue)]));
  for (const cue of after.cues) {
    const old = cuesBefore.get(cue.id);
    if (old === undefined) lines.push(`cue added: ${cueWords(cue)}`);
    else if (old !== JSON.stringify(cue)) lines.push(`cue changed: ${cueWords(cue)}`);
    cuesBefore.delete(cue.id);
  }
  if (cuesBefore.size > 0)
    lines.push(cuesBefore.size === 1 ? 'a cue removed' : `${cuesBefore.size} cues removed`);

  const old = new Map(before.scenes.map((scene, index) => [scene.id, { scene, index }]));
  const kept = after.scenes.filter((scene) => old.has(scene.id)).map((scene) => scene.id);
  const keptBefore = before.scenes.filter((scene) => kept.includes(scene.id)).map((scene) => scene.id);
  if (kept.join() !== keptBefore.join()) lines.push('scenes in another order');
  for (const [index, scene] of after.scenes.entries()) {
    const was = old.get(scene.id);
    if (!was) lines.push(`scene ${index + 1} added: ${scene.name}`);
    else {
      const changes = sceneChanges(was.scene, scene);
      if (changes.length > 0) lines.push(`scene ${index + 1}: ${changes.join(', ')}`);
    }
    old.delete(scene.id);
  }
  for (const { scene, index } of old.values()) lines.push(`scene ${index + 1} removed: ${scene.name}`);
  return lines;
}

function sceneChanges(before: Scene, after: Scene): string[] {
  const changes: string[] = [];
  if (before.name !== after.name) changes.push(`renamed to “${after.name}”`);
  const old = new Map(before.steps.map((step) => [step.id, step]));
  const order = after.steps.filter((step) => old.has(step.id)).map((step) => step.id);
  if (
    order.join() !==
    before.steps
      .filter((step) => order.includes(step.id))
      .map((step) => step.id)
      .join()
  )
    changes.push('steps in another order');
  for (const step of after.steps) {
    const was = old.get(step.id);
    if (!was) changes.push(`${NAMES[step.kind]} added`);
    else if (!sameJson(was, step)) changes.push(...stepChanges(was, step));
    old.delete(step.id);
  }
  for (const step of old.values()) changes.push(`${NAMES[step.kind]} removed`);
  return [...new Set(changes)];
}

function stepChanges(before: Step, after: Step): string[] {
  const changes: string[] = [];
  if (before.kind !== after.kind) return [`${NAMES[before.kind]} became ${NAMES[after.kind]}`];
  if ('text' in before && 'text' in after && before.text !== after.text)
    changes.push(`${NAMES[after.kind]} reworded`);
  const labels = (step: Step) =>
    (step.kind === 'say' ? (step.choices ?? []) : step.kind === 'ask' ? (step.options ?? []) : []).map(
      (choice) => `${choice.id}:${choice.label}`,
    );
  const count = labels(after).length - labels(before).length;
  if (count > 0) changes.push(count === 1 ? 'choice added' : `${count} choices added`);
  else if (count < 0) changes.push(count === -1 ? 'choice removed' : `${-count} choices removed`);
  else if (labels(before).join('\n') !== labels(after).join('\n')) changes.push('choice reworded');
  const others = (step: Step) => exitsOf(step).filter((exit) => exit.kind !== 'choice');
  const exitCount = others(after).length - others(before).length;
  if (exitCount !== 0) changes.push(exitCount > 0 ? 'exit added' : 'exit removed');
  const targets = (step: Step) =>
    exitsOf(step)
      .map((exit) => `${exit.kind}:${exit.to}`)
      .join();
  if (count === 0 && exitCount === 0 && targets(before) !== targets(after)) changes.push('target changed');
  if (changes.length === 0) changes.push(`${NAMES[after.kind]} changed`);
  return changes;
}
