import type { Finding, Loop } from '@dart-loop/core';

/**
 * What a step's line may do beyond its own text. One object for all lines, so that a line is drawn again only
 * when its step changes.
 */
export interface StepActions {
  edit(change: (loop: Loop) => Loop, as?: string): void;
  addChoice(stepId: string, label: string): void;
  act(
    stepId: string,
    what:
      | 'add below'
      | 'see how it lands'
      | 'rehearse'
      | 'up'
      | 'down'
      | 'duplicate'
      | 'copy'
      | 'cut'
      | 'paste'
      | 'choose'
      | 'remove',
  ): void;
  goTo(sceneId: string): void;
  accept(finding: Finding, reason: string | null): void;
  fix(finding: Finding): void;
}
