import { TagName, ListName } from '@dart-loop/core';
import { ColumnUse } from '@dart-loop/core/people/columnUse';
import type { CellProblem } from '@dart-loop/core/people/rowReading';
import { z } from 'zod';
import { uuid, which } from './people';

/** Which people something is done with: those that are named, or whoever a search and a sentence find. */

export const Selection = z.union([
  z.object({ ids: z.array(uuid).min(1).max(1000) }).strict(),
  z.object(which).strict(),
]);
export type Selection = z.infer<typeof Selection>;

export const PeopleAction = z.discriminatedUnion('do', [
  z.object({ do: z.literal('add tag'), tag: TagName }),
  z.object({ do: z.literal('remove tag'), tag: TagName }),
  z.object({ do: z.literal('set'), field: z.string().max(40), value: z.string().max(4096) }),
  z.object({ do: z.literal('clear'), field: z.string().max(40) }),
  z.object({
    do: z.literal('join list'),
    list: ListName,
    stated: z
      .string()
      .trim()
      .min(1, 'say what the opt-in rests on, such as “paper form, spring fair 2026”')
      .max(400),
  }),
  z.object({ do: z.literal('leave list'), list: ListName }),
  z.object({ do: z.literal('start loop'), loopId: uuid }),
  z.object({ do: z.literal('send to'), destinationId: uuid }),
  z.object({ do: z.literal('erase'), reason: z.string().trim().min(1, 'say why they are erased').max(200) }),
]);
export type PeopleAction = z.infer<typeof PeopleAction>;
export const ActOnPeople = z.object({
  people: Selection,
  action: PeopleAction,
  preview: z.boolean().default(false),
});
/** What an action would do. */
export interface ActionPreview {
  total: number;
  /** Sentences: whom it passes over, and why. */
  words: string[];
}

export type TaskState =
  'waiting' | 'running' | 'stopping' | 'stopped' | 'done' | 'failed' | 'undoing' | 'undone';
export interface TaskView {
  id: string;
  kind: string;
  title: string;
  state: TaskState;
  total: number | null;
  done: number;
  /** How many of what: "made", "changed", "left out". */
  counts: Record<string, number>;
  problems: CellProblem[];
  failure: string | null;
  madeAt: string;
  by: string | null;
  canUndo: boolean;
}
/** A file that was brought in, before it is decided what its columns are. */

export interface UploadPage {
  id: string;
  name: string;
  format: 'csv' | 'jsonl' | 'vcard';
  encoding: string;
  separator: string;
  ours: boolean;
  columns: { name: string; samples: string[]; use: ColumnUse }[];
  /** The first rows as they stand. */
  rows: string[][];
}
export const UploadQuery = z.object({
  name: z.string().trim().min(1, 'a file has a name').max(200),
});
export const LookQuery = z.object({
  encoding: z.enum(['utf-8', 'utf-16le', 'utf-16be', 'windows-1252']).optional(),
  separator: z.string().min(1).max(1).optional(),
});
export const ImportSpec = z
  .object({
    uploadId: uuid,
    encoding: z.enum(['utf-8', 'utf-16le', 'utf-16be', 'windows-1252']),
    separator: z.string().length(1),
    /** What each column is for; only of files of cells. */
    uses: z.array(ColumnUse).max(500),
    /** Whether the first row names the columns. */
    header: z.boolean().default(true),
    dayOrder: z.enum(['day first', 'month first']).default('day first'),
    /** Somebody who is known already, by id, number or email address. */
    known: z.enum(['file wins', 'fill gaps', 'leave alone']),
    /** A row with a cell that cannot be read. */
    bad: z.enum(['leave out the row', 'leave the cell empty']).default('leave out the row'),
    /** Cells that were put right, by row and column. */
    mends: z.record(z.string().max(10), z.record(z.string().max(200), z.string().max(4096))).default({}),
    tags: z.array(TagName).max(20).default([]),
    lists: z.array(ListName).max(20).default([]),
    /** Lines on which everybody in the file has opted in, by their keys. */
    optIn: z.array(z.string().max(40)).max(20).default([]),
    /** What every opt-in of the file rests on. */
    stated: z.string().trim().max(400).default(''),
    /** Only looks what would happen. */
    dry: z.boolean(),
  })
  .strict()
  .refine(
    ({ uses, lists, optIn, stated }) =>
      stated !== '' ||
      (lists.length === 0 &&
        optIn.length === 0 &&
        uses.every((use) => use.as !== 'lists' && use.as !== 'consent')),
    {
      path: ['stated'],
      message:
        'say where these people opted in, such as “paper form, spring fair 2026”; without that nobody is opted in',
    },
  );
export type ImportSpec = z.infer<typeof ImportSpec>;

export const ExportQuery = z.object({ ...which, format: z.enum(['csv', 'jsonl', 'vcard']).default('csv') });
