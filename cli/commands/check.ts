import { counted } from '@dart-loop/core/language/counted';
import { surroundingsOf } from '@dart-loop/core/loops/file/clientFile';
import { findingsOf } from '@dart-loop/core';
import { Unusable } from '../machine';
import { foundIn, foundWords, readArguments, readLoops, soundLoops, type FoundLine } from './loopFiles';
import { SETTING, readSetting } from './setting';

export const USAGE = `./dartloop check FILE… [--client client.yaml] [--line KEY | --on CHANNEL] [--person person.yaml] [--json]

  FILE…      loop files, each with one loop or several parted by lines of ---, or folders of them
${SETTING}
  --json     one object a line

The files are taken as the loops of one client. Status 0: nothing that stops or warns; 1: findings that do;
2: a file that cannot be used.`;

/** What nothing can be said of without the client. */
const UNKNOWN =
  'its lines with their limits and templates, calendars, destinations, lists, segments and fields';

/** `./dartloop check FILE…`: what is wrong or risky in loop files, each with its place. See {@link USAGE}. */
export async function check(args: string[]): Promise<number> {
  const { names, flags, values } = readArguments(args, {
    flags: ['json', 'help'],
    values: ['client', 'line', 'on', 'person', 'as'],
  });
  if (flags.has('help')) {
    console.log(USAGE);
    return 0;
  }
  if (names.length === 0) throw new Unusable(`Name at least one file.\n\n${USAGE}`);
  const files = readLoops(names);
  const loops = soundLoops(files);
  const { known, line, person } = readSetting(values, loops);
  const surroundings = {
    ...(known && surroundingsOf(known)),
    ...(line && { lines: [line] }),
    ...(person && { person }),
  };
  const found = files.flatMap(({ name, read }): FoundLine[] => {
    if (!read.ok)
      return read.problems.map((problem) => ({
        file: name,
        ...problem,
        severity: 'unusable',
        code: 'unusable file',
        where: '',
      }));
    // Files that could not be read are not missed in the others.
    const others = loops.length === files.length ? loops.filter((loop) => loop !== read.loop) : undefined;
    return findingsOf(read.loop, { ...surroundings, others })
      .filter((finding) => finding.accepted === null)
      .map((finding) => foundIn(name, read, finding));
  });
  for (const each of found) console.log(flags.has('json') ? JSON.stringify(each) : foundWords(each));
  if (!flags.has('json')) {
    const of = new Set(files.map(({ name }) => name)).size;
    const where = of === 1 ? 'the file' : `${of} files`;
    console.log(
      found.length === 0 ? `Nothing found in ${where}.` : `${counted(found.length, 'finding')} in ${where}.`,
    );
    if (!known) console.log(`Not looked at, as no client was named (--client FILE): ${UNKNOWN}.`);
  }
  const severities = new Set(found.map(({ severity }) => severity));
  return severities.has('unusable') ? 2 : severities.has('stops') || severities.has('warns') ? 1 : 0;
}
