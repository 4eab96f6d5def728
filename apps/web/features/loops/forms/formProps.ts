import type { LoopSurroundings } from '@dart-loop/contract';
import type { Step } from '@dart-loop/core';
import type { SceneName } from '../TargetMenu';

export interface FormProps<K extends Step['kind']> {
  step: Extract<Step, { kind: K }>;
  /**
   * Puts a value at a path of the step; undefined takes it away. Told in one go, so that what belongs
   * together changes together.
   */
  set: (...changes: [path: (string | number)[], value: unknown][]) => void;
  scenes: SceneName[];
  known: LoopSurroundings | undefined;
}

export type Changes = Parameters<FormProps<Step['kind']>['set']>;
/** What is to be taken away, by its keys. */
export const without = (...keys: string[]): Changes => keys.map((key) => [[key], undefined]);
