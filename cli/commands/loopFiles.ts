import { existsSync, readFileSync, readdirSync, statSync } from 'node:fs';
import { join, relative, resolve } from 'node:path';
import type { Finding, Loop, Severity } from '@dart-loop/core';
import { whereWords } from '@dart-loop/core/loops/check/check';
import { loopAround } from '@dart-loop/core/loops/file/alone';
import { readLoopFiles, type LoopFile } from '@dart-loop/core/loops/file/loopFile';
import type { FilePlace, FileProblem } from '@dart-loop/core/loops/file/yamlFile';
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

/**
 * The loops of files and folders, each file with one or several. Of a folder every file of YAML or JSON that
 * is a loop file is taken, and it is said which are left out.
 */
export function readLoops(names: string[]): ReadFile[] {
  const files = names.flatMap((name) => {
    const path = resolve(caller(), name);
    if (!existsSync(path) || !statSync(path).isDirectory()) return [name];
    const inside = readdirSync(path)
      .filter((each) => /\.(ya?ml|json)$/i.test(each))
      .sort()
      .map((each) => join(name, each));
    const loops = inside.filter((each) => readText(each).includes('dart-loop/1'));
    for (const each of inside)
      if (!loops.includes(each)) console.error(`${each} is no loop file and is left out.`);
    if (loops.length === 0) throw new Unusable(`${name} is a folder without a loop file in it.`);
    return loops;
  });
  return files.flatMap((name) => readOne(readText(name)).map((read) => ({ name, read })));
}

/** A file as it stands, or the loop around a single cue or step; places are those of the file. */
function readOne(text: string): LoopFile[] {
  const around = loopAround(text);
  if (!around) return readLoopFiles(text);
  const inText = <P extends FilePlace>(place: P): P => ({
    ...place,
    line: Math.max(1, place.line - around.lines),
    column: Math.max(1, place.column - around.columns),
  });
  return readLoopFiles(around.file).map((read) =>
    read.ok
      ? { ...read, place: (finding) => inText(read.place(finding)) }
      : { ok: false, problems: read.problems.map(inText) },
  );
}

/** The loops that could be read. */
export function soundLoops(files: ReadFile[]): Loop[] {
  return files.flatMap(({ read }) => (read.ok ? [read.loop] : []));
}

/** A problem with its place, as compilers write it. */
export const problemWords = (name: string, { line, column, reason }: FileProblem): string =>
  `${name}:${line}:${column}  ${reason}`;

/** Something found in a loop file, as it is printed or given as an object. */
export interface FoundLine extends FilePlace {
  file: string;
  severity: 'unusable' | Severity;
  code: string;
  /** In the words of the script: "scene 2 (Large), step 1", "cue 1"; empty for the loop as a whole. */
  where: string;
  reason: string;
}

/** A finding of a loop that could be read. */
export const foundIn = (
  name: string,
  read: Extract<LoopFile, { ok: true }>,
  finding: Finding,
): FoundLine => ({
  file: name,
  ...read.place(finding),
  severity: finding.severity,
  code: finding.code,
  where: placeWords(read.loop, finding),
  reason: finding.reason,
});

function placeWords({ cues, scenes }: Loop, { sceneId, stepId, cueId }: Finding): string {
  if (cueId !== null) return `cue ${cues.findIndex((cue) => cue.id === cueId) + 1}`;
  const scene = scenes.find((each) => each.id === sceneId);
  if (!scene) return '';
  const step = scene.steps.findIndex((each) => each.id === stepId);
  return `${whereWords({ scenes }, scene.id)}${step < 0 ? '' : `, step ${step + 1}`}`;
}

/** "asks.yaml:8:5  warns  may be empty: … In scene 2 (Large), step 1." */
export const foundWords = ({ file, severity, code, where, reason, ...place }: FoundLine): string =>
  problemWords(file, {
    ...place,
    reason: `${severity}  ${code}: ${reason}${where === '' ? '' : ` In ${where}.`}`,
  });

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
