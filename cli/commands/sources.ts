import { readFileSync, readdirSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { READABLE } from '@dart-loop/core/answers/documents/kinds';
import { SourceIndex } from '@dart-loop/core/answers/finding';
import type { Passage } from '@dart-loop/core/answers/passage';
import { answersTo } from '@dart-loop/core/answers/answering';
import type { BriefFacts } from '@dart-loop/core/answers/brief';
import { fitsChannel } from '@dart-loop/core/answers/saying';
import { toSay } from '@dart-loop/core/answers/toSay';
import type { FromSources } from '@dart-loop/core/engine/steps/fromSources';
import type { ChannelKind } from '@dart-loop/core';
import { withoutDoubles } from '@dart-loop/core/answers/tidy';
import { meaningsOf } from '@dart-loop/core/answers/encoder/meaning';
import { readEncoder } from '../../apps/server/src/answers/encoderFiles';
import { readDocument } from '../../apps/server/src/answers/reading';
import { Unusable } from '../machine';
import { caller, ROOT } from '../places';

/** The files of a folder and of those in it, by their names from there, sorted. */
function filesIn(folder: string, below = ''): string[] {
  return readdirSync(join(folder, below), { withFileTypes: true })
    .filter(({ name }) => !name.startsWith('.'))
    .sort((one, other) => (one.name < other.name ? -1 : 1))
    .flatMap((each) => {
      const name = below ? `${below}/${each.name}` : each.name;
      return each.isDirectory() ? filesIn(folder, name) : [name];
    });
}

/**
 * Reads the passages of a folder of sources, of every kind of document; what is left out is said. Throws
 * {@link Unusable} where there is nothing to read.
 */
export async function readPassages(folder: string): Promise<Passage[]> {
  const path = resolve(caller(), folder);
  if (!statSync(path, { throwIfNoEntry: false })?.isDirectory())
    throw new Unusable(`${folder} is no folder. Name the folder that the sources are in.`);
  const passages: Passage[] = [];
  for (const file of filesIn(path)) {
    const read = await readDocument(file, readFileSync(join(path, file)));
    if (read.ok) passages.push(...read.passages);
    else console.error(`${file} is left out. ${read.reason}`);
  }
  if (passages.length === 0) throw new Unusable(`${folder} has no document that can be read: ${READABLE}.`);
  return withoutDoubles(passages);
}

/** The same, ready to be asked by what they mean. */
export async function readSources(folder: string): Promise<SourceIndex> {
  const index = new SourceIndex(await readPassages(folder));
  const encoder = readEncoder(join(ROOT, 'package.json'));
  index.learn(encoder, meaningsOf(encoder, index.passages).entries());
  return index;
}

/** What an `answer` step is told by a folder of sources, on a channel. */
export async function sourcesSay(
  folder: string,
  { channel, client, now }: { channel: ChannelKind; client: BriefFacts; now: number },
): Promise<(question: string, before: string | null) => FromSources> {
  const index = await readSources(folder);
  const fits = fitsChannel(channel);
  return (question, before) => toSay(index, answersTo(index, question, { before, fits, client, now }), fits);
}
