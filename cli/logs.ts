import { chmodSync, copyFileSync, existsSync, openSync, renameSync, statSync, truncateSync } from 'node:fs';

const MOST_BYTES = 20 * 1_024 * 1_024;
const KEPT = 5;

const LOOK_MS = 60_000;

/** Opens a log for adding to it: readable by its owner alone. */
export function openLog(file: string): number {
  rotate(file);
  const opened = openSync(file, 'a', 0o600);
  // One of before may have been open to others.
  chmodSync(file, 0o600);
  return opened;
}

/**
 * Looks at a log now and then while somebody writes to it; gives what ends that. Whoever writes adds to its
 * end, so it can be emptied under them.
 */
export function keepRotating(file: string): () => void {
  const timer = setInterval(() => rotate(file), LOOK_MS);
  timer.unref();
  return () => clearInterval(timer);
}

/** One that has grown large is begun anew; the last few are kept beside it as .1, .2 … */
export function rotate(file: string, mostBytes = MOST_BYTES): void {
  if (!existsSync(file) || statSync(file).size <= mostBytes) return;
  for (let n = KEPT - 1; n >= 1; n--)
    if (existsSync(`${file}.${n}`)) renameSync(`${file}.${n}`, `${file}.${n + 1}`);
  copyFileSync(file, `${file}.1`);
  chmodSync(`${file}.1`, 0o600);
  truncateSync(file);
}
