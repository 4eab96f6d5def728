import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The checkout, and what the commands keep in it (never committed). */
export const ROOT = fileURLToPath(new URL('..', import.meta.url)).replace(/\/$/, '');
export const DATA = join(ROOT, '.data');
export const BUILD = join(DATA, 'build');

/** Where the command was called; files that are named on the command line are meant from there. */
export const caller = (): string => process.env.DARTLOOP_CALLED_FROM ?? process.cwd();
