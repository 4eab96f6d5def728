import { destinations } from './destinations';
import { failingLines } from './failingLines';
import { platformNotes } from './platformNotes';
import { sources } from './sources';
import { unanswered } from './unanswered';
import { undelivered } from './undelivered';
import { unprocessed } from './unprocessed';
import { unpublished } from './unpublished';
import { unsent } from './unsent';
import { waitingPeople } from './waitingPeople';
import type { Matter } from './matter';

/** What Today says, each in its own order. */
export const MATTERS: readonly Matter[] = [
  failingLines,
  platformNotes,
  unprocessed,
  destinations,
  unpublished,
  waitingPeople,
  unsent,
  undelivered,
  sources,
  unanswered,
];
