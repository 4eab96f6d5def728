import { readFileSync } from 'node:fs';
import { relative, resolve } from 'node:path';
import type { Loop } from '@dart-loop/core';
import { readLoopFile, type LoopFile } from '@dart-loop/core/loops/file/loopFile';
import { Unusable } from '../machine';
import { caller } from '../places';

export interface ReadFile {
  /** As it was named. */
  name: string;
  read: LoopFile;
}

/** Reads a file that was named from where the command was called. Throws {@link Unusable}. */
export function readText(name: string): string {
  const path = resolve(caller(), name);
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    throw new Unusable(
      `${relative(caller(), path) || name} cannot be read: ${code === 'ENOENT' ? 'there is no such file' : code === 'EISDIR' ? 'it is a folder' : (error as Error).message}.`,
    );
  }
}

export function readLoops(names: string[]): ReadFile[] {
  return names.map((name) => ({ name, read: readLoopFile(readText(name)) }));
}

/** The loops that could be read. */
export function soundLoops(files: ReadFile[]): Loop[] {
  return files.flatMap(({ read }) => (read.ok ? [read.loop] : []));
}

/**
 * Options such as `--json` and `--on sms`, and the names between them. Throws {@link Unusable} for one that
 * is not known.
 */
export function readArguments(
  args: string[],
  known: { flags: string[]; values: string[] },
): { names: string[]; flags: Set<string>; values: Record<string, string> } {
  const names: string[] = [];
  const flags = new Set<string>();
  const values: Record<string, string> = {};
  for (let at = 0; at < args.length; at++) {
    const word = args[at]!;
    if (!word.startsWith('--')) names.push(word);
    else if (known.flags.includes(word.slice(2))) flags.add(word.slice(2));
    else if (known.values.includes(word.slice(2))) {
      const value = args[++at];
      if (value === undefined) throw new Unusable(`${word} needs a value after it.`);
      values[word.slice(2)] = value;
    } else
      throw new Unusable(
        `There is no option ${word}; there are ${[...known.flags, ...known.values].map((each) => `--${each}`).join(', ')}.`,
      );
  }
  return { names, flags, values };
}
