import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';

/** Where the demo's files lie: a folder for each client. */
export const DEMO = join(__dirname, '../../../demo');

/** The loops of the demo’s clients, each with `client/file.yaml` and its text; other files are none. */
export const DEMO_LOOPS: readonly { name: string; text: string }[] = readdirSync(DEMO, {
  withFileTypes: true,
})
  .filter((entry) => entry.isDirectory())
  .flatMap(({ name: client }) =>
    readdirSync(join(DEMO, client))
      .filter((file) => file.endsWith('.yaml'))
      .map((file) => ({ name: `${client}/${file}`, text: readFileSync(join(DEMO, client, file), 'utf8') })),
  );
