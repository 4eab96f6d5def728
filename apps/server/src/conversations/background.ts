import type { Clock } from '../platform/clock';
import { makeMonths } from '../platform/db/months';
import { type Db } from '../platform/db/pool';
import { sendDaily } from '../sync/schedule';
import { dropHeld } from '../sending/held';
import { publishScheduled } from '../loops/publish';
import { planCues } from '../loops/cuePlans';
import { Resting } from '../platform/jobs/resting';
import { Rounds } from '../platform/jobs/rounds';
import type { Store } from '../files/store';
import type { Tell } from './pathOptions';
import { mergeAlike } from '../people/alike';
import { beginTallies, foldTallies } from '../people/tally';
import { deleteClients } from '../clients/deleting';
import { keepRetention } from '../people/retention';
import { Answers } from '../answers/answers';
import { readDue } from '../answers/siteReading';
import { encodeStale } from '../answers/encoding';
import { askOpenAgain } from '../answers/unanswered';
import { runStaleSheets } from '../answers/sheet';
import { Threads } from '../platform/threads/threads';

/** How often days and silences of newly published cues are looked for. */
const PLAN_MS = 1_000;
/** How often those who have changed are written into the tallies of large clients. */
const FOLD_MS = 5_000;
const DELETE_MS = 5_000;
/** How often sources are looked for that have changed, and whose meaning is to be worked out. */
const ENCODE_MS = 1_000;
/** How often question sheets are asked whose sources have changed. */
const SHEETS_MS = 2_000;
/** How often clients are looked for that have grown large. */
const TALLIES_MS = 60_000;
/** How often what was held back is looked at. */
const HELD_MS = 60_000;
/** How often tasks are looked for that nobody was woken for, and people who may be one. */
const TASKS_MS = 1_000;
const ALIKE_MS = 30_000;
/** How often the partitions of the coming months are seen to. */
const MONTHS_MS = 6 * 3_600_000;

/**
 * What every process does by itself from time to time, whoever else does it: cues whose day has come,
 * publishing, merging, tallies, deleting, retention. One client's that fails rests, the others' goes on.
 */
export function beginBackground(
  rounds: Rounds,
  parts: {
    db: Db;
    answers: Answers;
    threads: Threads;
    resting: Resting;
    rootKey: Buffer;
    clock: Clock;
    tell: Tell;
    /** The folder for files, if there is one. */
    files: string | null;
    store: Store | null;
    tasksWaiting: () => void;
  },
): void {
  const { db, answers, threads, resting, rootKey, clock, tell, files, store, tasksWaiting } = parts;
  rounds.every(MONTHS_MS, 'the months ahead could not be made', () => makeMonths(db, clock.now()));
  rounds.every(TASKS_MS, 'tasks could not be looked for', async () => tasksWaiting());
  rounds.every(ALIKE_MS, 'people could not be made one', async () =>
    tell(await mergeAlike(db, clock.now(), resting)),
  );
  rounds.every(MONTHS_MS, 'what is kept no longer could not be let go of', async () => {
    while (!rounds.isStopped && (await keepRetention(db, clock.now(), rootKey, resting)));
  });
  rounds.every(DELETE_MS, 'clients that are to be deleted could not be let go of', async () => {
    while (!rounds.isStopped && (await deleteClients(db, clock.now(), files, store, resting)));
  });
  rounds.every(FOLD_MS, 'changes could not be written into the tallies', async () => {
    while (!rounds.isStopped && (await foldTallies(db, clock, resting)));
  });
  rounds.every(ENCODE_MS, 'what sources mean could not be worked out', () =>
    encodeStale(db, answers, clock, resting, () => rounds.isStopped),
  );
  rounds.every(SHEETS_MS, 'question sheets could not be asked', async () => {
    const clients = await runStaleSheets(db, answers, clock, resting);
    if (clients.length > 0) tell(clients);
  });
  rounds.every(SHEETS_MS, 'what could not be answered could not be asked again', async () => {
    const clients = await askOpenAgain(db, answers, clock, resting);
    if (clients.length > 0) tell(clients);
  });
  rounds.every(HELD_MS, 'sites that are to be read again could not be looked for', async () => {
    if (await readDue(db, clock)) tasksWaiting();
  });
  rounds.every(TALLIES_MS, 'tallies could not be begun', () => beginTallies(db));
  rounds.every(PLAN_MS, 'cues could not be planned', () => planCues(db, clock, resting));
  rounds.every(PLAN_MS, 'what was scheduled could not be published', async () => {
    const clients = await publishScheduled(db, clock, threads);
    if (clients.length > 0) tell(clients);
  });
  rounds.every(PLAN_MS, 'what is sent every day could not be noted', async () => {
    const clients = await sendDaily(db, clock, resting);
    if (clients.length === 0) return;
    tasksWaiting();
    tell(clients);
  });
  rounds.every(HELD_MS, 'what was held too long could not be dropped', async () =>
    tell(await dropHeld(db, clock)),
  );
}
