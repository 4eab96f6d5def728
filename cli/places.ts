import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The checkout, and what the commands keep in it (never committed). */
export const ROOT = fileURLToPath(new URL('..', import.meta.url)).replace(/\/$/, '');
export const DATA = join(ROOT, '.data');
export const BUILD = join(DATA, 'build');
