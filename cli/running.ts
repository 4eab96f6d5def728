import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { isAlive } from './machine';
import { DATA } from './places';

/** What a command that runs leaves in a file for the others; null where it is not there, or has ended. */
export function runningNote<N extends { pid: number }>(file: string): N | null {
  if (!existsSync(file)) return null;
  const note = JSON.parse(readFileSync(file, 'utf8')) as N;
  return isAlive(note.pid) ? note : null;
}

/** Where the demo leaves its own. */
export const DEMO_NOTE = join(DATA, 'demo.running');

export interface DemoNote {
  pid: number;
  /** Empty while it starts. */
  address: string;
  /** What its server was started with; not there while it starts. */
  environment?: Record<string, string>;
}
export const runningDemo = (): DemoNote | null => runningNote<DemoNote>(DEMO_NOTE);
