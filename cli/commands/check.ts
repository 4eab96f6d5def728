import { counted } from '@dart-loop/core/language/counted';
import { findingsOf, type Severity } from '@dart-loop/core';
import { Unusable } from '../machine';
import { readArguments, readLoops, soundLoops } from './loopFiles';

export const USAGE = './dartloop check FILE… [--json]';

interface Line {
  file: string;
  line: number;
  column: number;
  severity: 'unusable' | Severity;
  code: string;
  reason: string;
}

/**
 * `./dartloop check FILE… [--json]`: what is wrong or risky in loop files, each with its place. The files are
 * taken as the loops of one client. Status 0: nothing that stops or warns; 1: findings that do; 2: a file
 * that cannot be used.
 */
export async function check(args: string[]): Promise<number> {
  const { names, flags } = readArguments(args, { flags: ['json'], values: [] });
  if (names.length === 0) throw new Unusable(`Name at least one file: ${USAGE}`);
  const files = readLoops(names);
  const loops = soundLoops(files);
  const lines = files.flatMap(({ name, read }): Line[] => {
    if (!read.ok)
      return read.problems.map((problem) => ({
        file: name,
        ...problem,
        severity: 'unusable',
        code: 'unusable file',
      }));
    // Files that could not be read are not missed in the others.
    const others = loops.length === files.length ? loops.filter((loop) => loop !== read.loop) : undefined;
    return findingsOf(read.loop, { others })
      .filter((finding) => finding.accepted === null)
      .map((finding) => ({
        file: name,
        ...read.place(finding),
        severity: finding.severity,
        code: finding.code,
        reason: finding.reason,
      }));
  });
  for (const line of lines)
    console.log(
      flags.has('json')
        ? JSON.stringify(line)
        : `${line.file}:${line.line}:${line.column}  ${line.severity}  ${line.code}: ${line.reason}`,
    );
  if (!flags.has('json')) {
    const count = lines.length;
    console.log(
      count === 0
        ? `Nothing found in ${names.length === 1 ? 'the file' : `${names.length} files`}.`
        : `${counted(count, 'finding')} in ${names.length === 1 ? 'the file' : `${names.length} files`}.`,
    );
  }
  return lines.some((line) => line.severity === 'unusable')
    ? 2
    : lines.some((line) => line.severity !== 'notes')
      ? 1
      : 0;
}
