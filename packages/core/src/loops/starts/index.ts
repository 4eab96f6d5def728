import { appointment } from './appointment';
import { comments } from './comments';
import { explained } from './explained';
import { keyword } from './keyword';
import { signUp } from './signUp';
import type { Start } from './start';

/** The loops to begin with, in the order in which they are offered. A new one is a file and its line here. */
export const STARTS: readonly Start[] = [keyword, signUp, comments, appointment, explained];

export type { Start };
