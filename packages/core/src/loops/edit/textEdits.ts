import type { Loop } from '../model/loop';
import type { Step } from '../../engine/steps';
import { makeEdits, type LoopEdit } from './loopEdit';

/** Where words stand in a step that a person reads or that go out; below each, every text counts. */
const WORDY = [
  'text',
  'choices',
  'options',
  'retry',
  'reminders',
  'variants',
  'offDuty',
  'confirm',
  'note',
  'subject',
  'link',
  'skip',
  'whenShut',
  'body',
  'changes',
];
/** Texts that are names of something, not words. */
const NAMES = new Set(['id', 'to', 'do', 'field', 'from', 'address', 'image', 'name', 'after', 'by']);

/**
 * The edits that put `change` of every text of a step in its place. Ids, targets, fields and addresses are
 * left alone.
 */
export function textEdits(step: Step, change: (text: string) => string): LoopEdit[] {
  const edits: LoopEdit[] = [];
  const walk = (value: unknown, path: (string | number)[]) => {
    if (typeof value === 'string') {
      const next = change(value);
      if (next !== value && next.trim() !== '')
        edits.push({ edit: 'step', stepId: step.id, path, value: next });
    } else if (value !== null && typeof value === 'object')
      for (const [key, each] of Object.entries(value))
        if (Array.isArray(value) || !NAMES.has(key))
          walk(each, [...path, Array.isArray(value) ? Number(key) : key]);
  };
  for (const key of WORDY) {
    const value = (step as Record<string, unknown>)[key];
    if (value !== undefined) walk(value, [key]);
  }
  return edits;
}

/** How often, and in which steps, words stand in a loop's texts. Case does not matter. */
export function findInLoop(loop: Loop, words: string): { stepId: string; count: number }[] {
  const pattern = patternOf(words);
  if (!pattern) return [];
  return loop.scenes.flatMap((scene) =>
    scene.steps.flatMap((step) => {
      let count = 0;
      textEdits(step, (text) => {
        count += text.match(pattern)?.length ?? 0;
        return text;
      });
      return count > 0 ? [{ stepId: step.id, count }] : [];
    }),
  );
}

/**
 * Puts other words in the place of words, in all texts or those of some steps. A text that would be left
 * empty stays as it was.
 */
export function replaceInLoop(loop: Loop, words: string, by: string, steps?: readonly string[]): Loop {
  const pattern = patternOf(words);
  if (!pattern) return loop;
  return makeEdits(
    loop,
    loop.scenes.flatMap((scene) =>
      scene.steps.flatMap((step) =>
        !steps || steps.includes(step.id) ? textEdits(step, (text) => text.replace(pattern, () => by)) : [],
      ),
    ),
  );
}

const patternOf = (words: string): RegExp | null =>
  words === '' ? null : new RegExp(words.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'), 'giu');
