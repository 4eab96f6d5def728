import { sheetLine } from '@dart-loop/core/answers/formats';
import { readSheet, runSheet, type SheetResult } from '@dart-loop/core/answers/sheet';
import { Unusable } from '../machine';
import { readArguments, readText } from './loopFiles';
import { readSources } from './sources';

export const USAGE = `./dartloop sheet FOLDER SHEET.csv [--json]

  FOLDER     the sources, as for ./dartloop answer
  SHEET.csv  a line for each question; its columns stand in the first line:
             question   as somebody would ask it
             from       the place that answers it, such as tickets.md#Children (may be left out)
             contains   what the answer has in it; several parted by |
             lacks      what it must not have; several parted by |
             known      yes, or no where the sources do not say it and nothing may be said
             least      what is expected: answer, offer (so where it is left out) or open
  --json     one object a line

Status 0: every question came out as expected; 1: some came out worse; 2: something cannot be read.`;

const CAME: Record<SheetResult['came'], string> = {
  right: 'answered rightly',
  offered: 'offered with the right one among them',
  open: 'left open',
  wrong: 'answered wrongly',
};

/** `./dartloop sheet FOLDER SHEET.csv`: asks the questions of a sheet. See {@link USAGE}. */
export async function sheet(args: string[]): Promise<number> {
  const { names, flags } = readArguments(args, { flags: ['json', 'help'], values: [] });
  if (flags.has('help')) {
    console.log(USAGE);
    return 0;
  }
  const [folder, file] = names;
  if (folder === undefined || file === undefined || names.length > 2)
    throw new Unusable(`Name a folder of sources and a sheet.\n\n${USAGE}`);
  const { rows, problems } = readSheet(readText(file));
  if (problems.length > 0) throw new Unusable(`${file} cannot be used.\n  ${problems.join('\n  ')}`);
  const results = runSheet(await readSources(folder), rows);
  if (flags.has('json')) for (const each of results) console.log(JSON.stringify(sheetLine(each)));
  else {
    for (const { row, answered, came, isAsExpected } of results)
      if (!isAsExpected) {
        const said = answered.text ? `: ${answered.text}` : '';
        console.log(`Worse than expected, ${CAME[came]}: “${row.question}”${said}`);
      }
    for (const came of Object.keys(CAME) as SheetResult['came'][])
      console.log(`${String(results.filter((each) => each.came === came).length).padStart(5)} ${CAME[came]}`);
  }
  return results.every(({ isAsExpected }) => isAsExpected) ? 0 : 1;
}
