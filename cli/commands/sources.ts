import { readdirSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { passagesOf } from '@dart-loop/core/answers/cutting';
import { SourceIndex } from '@dart-loop/core/answers/finding';
import { markdownBlocks } from '@dart-loop/core/answers/documents/markdown';
import { Unusable } from '../machine';
import { caller } from '../places';
import { readText } from './loopFiles';

const READ = /\.(md|markdown|txt)$/i;

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
 * Reads a folder of sources: Markdown and plain text; what is left out is said. Throws {@link Unusable} where
 * there is nothing to read.
 */
export function readSources(folder: string): SourceIndex {
  const path = resolve(caller(), folder);
  if (!statSync(path, { throwIfNoEntry: false })?.isDirectory())
    throw new Unusable(`${folder} is no folder. Name the folder that the sources are in.`);
  const files = filesIn(path);
  for (const file of files)
    if (!READ.test(file)) console.error(`${file} is left out: only .md and .txt are read.`);
  const read = files.filter((file) => READ.test(file));
  const passages = read.flatMap((file) =>
    passagesOf(file, file.replace(READ, ''), markdownBlocks(readText(join(folder, file)))),
  );
  if (passages.length === 0) throw new Unusable(`${folder} has no .md or .txt file with anything in it.`);
  return new SourceIndex(passages);
}
