import type { Loop } from '../model/loop';
import type { Step } from '../../engine/steps';
import { editStep, removeScene, removeStep, withValueAt } from './edits';

/** One change of a loop as plain data. A `value` of undefined takes the entry away. */
export type LoopEdit =
  | { edit: 'step'; stepId: string; path: (string | number)[]; value: unknown }
  | { edit: 'cue'; cueId: string; path: (string | number)[]; value: unknown }
  | { edit: 'loop'; path: (string | number)[]; value: unknown }
  | { edit: 'remove step'; stepId: string }
  | { edit: 'remove scene'; sceneId: string }
  | { edit: 'remove cue'; cueId: string };

/** Makes changes one after the other; those whose place is gone change nothing. */
export function makeEdits(loop: Loop, edits: readonly LoopEdit[]): Loop {
  return edits.reduce((before, edit) => {
    switch (edit.edit) {
      case 'step':
        return editStep(before, edit.stepId, (step) => withValueAt<Step>(step, edit.path, edit.value));
      case 'cue':
        return {
          ...before,
          cues: before.cues.map((cue) =>
            cue.id === edit.cueId ? withValueAt(cue, edit.path, edit.value) : cue,
          ),
        };
      case 'loop':
        return withValueAt(before, edit.path, edit.value);
      case 'remove step':
        return removeStep(before, edit.stepId);
      case 'remove scene':
        return removeScene(before, edit.sceneId);
      case 'remove cue':
        return { ...before, cues: before.cues.filter((cue) => cue.id !== edit.cueId) };
    }
  }, loop);
}
