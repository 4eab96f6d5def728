import type { MessagePort } from 'node:worker_threads';
import { problemsOf, type Loop, type Problem, type Surroundings } from '@dart-loop/core';
import { examine, type Examined } from '@dart-loop/core/check/examine';
import { readLoopFile, type FileProblem } from '@dart-loop/core/files/loopFile';
import { lookAtColumns, type ColumnsAsked, type ColumnsSeen } from '../people/columns';
import { rowReader, type ReadRow, type RowsAsked } from '../people/rows';

/** What is worked out in threads, so that no file and no loop of anybody's holds up the event loop. Each takes and gives plain data. */

export function readLoop({ file }: { file: string }): { ok: true; loop: Loop } | { ok: false; problems: FileProblem[] } {
  const read = readLoopFile(file);
  return read.ok ? { ok: true, loop: read.loop } : { ok: false, problems: read.problems };
}

/** How many problems each of a client's drafts has. */
export const countProblems = ({ drafts, known }: { drafts: Loop[]; known: Surroundings }): number[] =>
  drafts.map((draft) => problemsOf(draft, known).length);

export const problemsIn = ({ draft, known }: { draft: Loop; known: Surroundings }): Problem[] => problemsOf(draft, known);

export const examineLoop = ({ draft, known }: { draft: Loop; known: Surroundings }): Pick<Examined, 'findings' | 'takes'> => {
  const { findings, takes } = examine(draft, known);
  return { findings, takes };
};

export const lookAtFile = (asked: ColumnsAsked): ColumnsSeen => lookAtColumns(asked);

/** A message of {@link readRows}: the next bytes of the file, or its end (null). */
export type RowsIn = { bytes: Uint8Array | null };
export type RowsOut = { rows: ReadRow[]; isOver: boolean } | { failed: string };

/** Reads a file of people as it comes: for each piece that is put into the port its rows come out of it. Ends with the file, or when the port is closed. */
export function readRows({ asked, port }: { asked: RowsAsked; port: MessagePort }): Promise<void> {
  const reader = rowReader(asked);
  return new Promise((resolve) => {
    port.on('close', resolve);
    port.on('message', ({ bytes }: RowsIn) => {
      try {
        const rows = reader.push(bytes);
        port.postMessage({ rows, isOver: bytes === null } satisfies RowsOut);
      } catch (error) {
        port.postMessage({ failed: (error as Error).message } satisfies RowsOut);
      }
      if (bytes === null) port.close();
    });
  });
}
