import { z } from 'zod';
import { LineKey, LocalId } from '../../model/basics';

/** What every cue carries: its id within the loop, and the lines it listens on (none means all lines of the loop). */
export const cueParts = { id: LocalId, lines: z.array(LineKey).max(50).optional() };
