import { Performance } from '../src/engine/rehearsal/performance';
import type { Rehearsal, RehearsalEntry } from '../src/engine/rehearsal/rehearsal';
import { readScriptLine } from '../src/engine/rehearsal/script';

/**
 * Performs a whole written conversation. `failures` names lines (from 1) whose expectation was not met or
 * that cannot be performed.
 */
export function performScript(
  rehearsal: Rehearsal,
  written: string,
): { rehearsal: Rehearsal; entries: RehearsalEntry[]; failures: string[] } {
  const performance = new Performance(rehearsal);
  const failures: string[] = [];
  const lines = written.split('\n').flatMap((text, index) => {
    const line = readScriptLine(text);
    if (typeof line === 'string') failures.push(`line ${index + 1}: ${line}`);
    return line === null || typeof line === 'string' ? [] : [{ line, number: index + 1 }];
  });
  const entries = lines.flatMap(({ line, number }) => {
    const performed = performance.perform(line);
    if (performed.kind !== 'played') failures.push(`line ${number}: ${performed.reason}`);
    return performed.kind === 'unusable' ? [] : performed.entries;
  });
  entries.push(...performance.finish());
  return { rehearsal: performance.rehearsal, entries, failures };
}
