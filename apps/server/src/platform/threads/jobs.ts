import type { MessagePort } from 'node:worker_threads';
import { problemsOf, type Loop, type Problem, type Surroundings } from '@dart-loop/core';
import { groupAlike, type AlikeQuestions, type AskedQuestion } from '@dart-loop/core/answers/alike';
import { examine, type Examined } from '@dart-loop/core/loops/check/examine';
import { readLoopFile, type FileProblem } from '@dart-loop/core/loops/file/loopFile';
import {
  askSheetHeld,
  askHeld,
  askToSayHeld,
  encodeNext,
  hold,
  learn,
  type AskedOfSources,
  type Encoded,
  type Held,
  type Learnt,
  type ToSay,
} from '../../answers/held';
import {
  readDocument as readBytes,
  readWebPage,
  type ReadDocument,
  type ReadWebPage,
} from '../../answers/reading';
import type { Answered } from '@dart-loop/core/answers/answering';
import type { SheetResult, SheetRow } from '@dart-loop/core/answers/sheet';
import { lookAtColumns, type ColumnsAsked, type ColumnsSeen } from '../../people/columns';
import { rowReader, type ReadRow, type RowsAsked } from '../../people/rows';

/**
 * What is worked out in threads, so that no file and no loop of anybody's holds up the event loop. Each takes
 * and gives plain data.
 */

/**
 * What a thread is given: the question, and a place where it says that it has begun, as time before that is
 * nobody's fault.
 */
export interface Given<Asked> {
  asked: Asked;
  began: Int32Array;
}
const job =
  <Asked, Answer>(work: (asked: Asked) => Answer) =>
  ({ asked, began }: Given<Asked>): Answer => {
    Atomics.store(began, 0, 1);
    return work(asked);
  };

export const readLoop = job(
  ({ file }: { file: string }): { ok: true; loop: Loop } | { ok: false; problems: FileProblem[] } => {
    const read = readLoopFile(file);
    return read.ok ? { ok: true, loop: read.loop } : { ok: false, problems: read.problems };
  },
);

/** How many problems each of a client's drafts has. */
export const countProblems = job(({ drafts, known }: { drafts: Loop[]; known: Surroundings }): number[] =>
  drafts.map((draft) => problemsOf(draft, known).length),
);

export const problemsIn = job(({ draft, known }: { draft: Loop; known: Surroundings }): Problem[] =>
  problemsOf(draft, known),
);

export const examineLoop = job(
  ({ draft, known }: { draft: Loop; known: Surroundings }): Pick<Examined, 'findings' | 'takes'> => {
    const { findings, takes } = examine(draft, known);
    return { findings, takes };
  },
);

/** Questions that ask for the same, put together. */
export const groupAsked = job((asked: AskedQuestion[]): AlikeQuestions[] => groupAlike(asked));

/** A document as passages; a sentence where it cannot be read. */
export const readDocument = job((asked: { name: string; bytes: Uint8Array }): Promise<ReadDocument> => {
  return readBytes(asked.name, asked.bytes);
});

export const readPage = job(
  ({ address, type, bytes }: { address: string; type: string; bytes: Uint8Array }): Promise<ReadWebPage> =>
    readWebPage(address, type, bytes),
);

/**
 * The thread of answers keeps a client's sources in mind, as they stand at a revision; says the digests of
 * passages whose meaning it does not know.
 */
export const holdSources = job((asked: Held): string[] => hold(asked));
export const learnMeanings = job((asked: Learnt): void => learn(asked));
export const encodeHeld = job((asked: Omit<Learnt, 'known'>): Encoded | null => encodeNext(asked));

/** What a message is answered with; null where the sources of that revision are not in mind. */
export const askSources = job((asked: AskedOfSources & { message: string }): Answered[] | null =>
  askHeld(asked),
);

export const askToSay = job((asked: AskedOfSources & { message: string }): ToSay | null =>
  askToSayHeld(asked),
);
export const askSheet = job((asked: AskedOfSources & { rows: SheetRow[] }): SheetResult[] | null =>
  askSheetHeld(asked),
);

export const lookAtFile = job((asked: ColumnsAsked): ColumnsSeen => lookAtColumns(asked));

/** A message of {@link readRows}: the next bytes of the file, or its end (null). */
export type RowsIn = { bytes: Uint8Array | null };
export type RowsOut = { rows: ReadRow[] } | { failed: string } | { ready: true };

/**
 * Reads a file of people as it comes: for each piece that is put into the port its rows come out of it. Ends
 * with the file, or when the port is closed.
 */
export function readRows({ asked, port }: { asked: RowsAsked; port: MessagePort }): Promise<void> {
  const reader = rowReader(asked);
  return new Promise((resolve) => {
    port.on('close', resolve);
    port.on('message', ({ bytes }: RowsIn) => {
      try {
        const rows = reader.push(bytes);
        port.postMessage({ rows } satisfies RowsOut);
      } catch (error) {
        port.postMessage({ failed: (error as Error).message } satisfies RowsOut);
      }
      if (bytes === null) port.close();
    });
    port.postMessage({ ready: true } satisfies RowsOut);
  });
}
