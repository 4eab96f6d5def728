import { z } from 'zod';
import type { ImportSpec, TaskView, UploadPage } from '@dart-loop/contract';
import { readSentence } from '@dart-loop/core/loops/edit/typedCondition';
import { cellsLine } from '@dart-loop/core/people/csvWriting';
import type { Api } from '../api';
import { sleep } from '../machine';

/**
 * What a client's people are besides those who write: their lists, segments, fields, and a file they once
 * kept elsewhere.
 */
export const DemoPeople = z.object({
  lists: z
    .array(z.object({ name: z.string(), wording: z.string(), double: z.boolean().default(false) }))
    .default([]),
  fields: z
    .array(
      z.object({
        key: z.string(),
        type: z.string(),
        name: z.string(),
        description: z.string().default(''),
        personal: z.boolean().default(false),
      }),
    )
    .default([]),
  segments: z.array(z.object({ name: z.string(), who: z.string() })).default([]),
  file: z
    .object({
      name: z.string(),
      count: z.number().int(),
      towns: z.array(z.string()),
      tag: z.string(),
      stated: z.string(),
      optIn: z.array(z.string()),
      columns: z.tuple([z.string(), z.string()]),
    })
    .optional(),
});
export type DemoPeople = z.infer<typeof DemoPeople>;

export interface Named {
  first: string[];
  last: string[];
}

const DAY = 86_400_000;
/** A number kept for fiction, from a range that no conversation of the demo and no test phone uses. */
const numberOf = (n: number) => `01${13 + Math.floor(n / 1_000)} 496 0${String(n % 1_000).padStart(3, '0')}`;

/** A file as a shop keeps it: names, addresses, and what it counts. The same for the same moment. */
export function demoFile(
  { count, towns, columns }: NonNullable<DemoPeople['file']>,
  names: Named,
  seed: number,
  now: number,
): string {
  const lines = [
    cellsLine([
      'First name',
      'Last name',
      'Email',
      'Mobile',
      'Town',
      columns[0],
      columns[1],
      'Card no',
      'Since',
    ]),
  ];
  for (let n = 0; n < count; n++) {
    const at = n * 13 + seed;
    const first = names.first[(at * 5) % names.first.length]!;
    const last = names.last[(at * 3 + Math.floor(n / names.last.length)) % names.last.length]!;
    lines.push(
      cellsLine([
        first,
        last,
        n % 9 === 0 ? '' : `${first}.${last}${n < 40 ? '' : n}@example.org`.toLowerCase(),
        n % 7 === 0 ? '' : numberOf(n),
        towns[(at * 7) % towns.length]!,
        String(((at * 11) % 23) + 1),
        ['yes', 'no', 'no'][at % 3]!,
        String(at * 7_919).padStart(12, '0'),
        new Date(now - (((at * 31) % 900) + 20) * DAY).toISOString().slice(0, 10),
      ]),
    );
  }
  return lines.join('');
}

/** Sets up lists, fields and segments, and brings the file in through the same import that a user has. */
export async function bringDemoPeople(
  api: Api,
  slug: string,
  people: DemoPeople,
  names: Named,
  seed: number,
  now: number,
): Promise<void> {
  const client = `/clients/${slug}`;
  for (const list of people.lists) await api.put(`${client}/lists`, { list });
  for (const field of people.fields) await api.post(`${client}/fields`, field);
  for (const { name, who } of people.segments) {
    const read = readSentence(who);
    if (!read.ok) throw new Error(`the demo’s segment ${name} cannot be read: ${read.words}`);
    await api.post(`${client}/segments`, { name, rule: read.condition });
  }
  const { file } = people;
  if (!file) return;
  const page = await api.file<UploadPage>(
    `${client}/people/files?name=${encodeURIComponent(file.name)}`,
    new TextEncoder().encode(demoFile(file, names, seed, now)),
  );
  const spec: Omit<ImportSpec, 'header' | 'dayOrder' | 'bad' | 'mends' | 'lists'> = {
    uploadId: page.id,
    encoding: page.encoding as ImportSpec['encoding'],
    separator: page.separator,
    uses: page.columns.map((column) => column.use),
    known: 'fill gaps',
    tags: [file.tag],
    optIn: file.optIn,
    stated: file.stated,
    dry: false,
  };
  const { id } = await api.post<TaskView>(`${client}/people/imports`, spec);
  for (;;) {
    const task = await api.get<TaskView>(`${client}/tasks/${id}`);
    if (task.state === 'done') return;
    if (task.state === 'failed')
      throw new Error(`the demo’s file ${file.name} could not be brought in: ${task.failure}`);
    await sleep(50);
  }
}
