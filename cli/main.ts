import { carryOut } from './carryOut';

interface Command {
  words: string;
  /** Resolves to the exit status, where that says more than that it went well. */
  run(args: string[]): Promise<number | void>;
}

/** Each command is loaded only when it is asked for. */
const COMMANDS: Record<string, Command> = {
  demo: {
    words: 'everything with the demo world, on one address, until Ctrl+C',
    run: async () => (await import('./commands/demo')).demo(),
  },
  dev: {
    words: 'the same, watching: edits of server and web show at once',
    run: async () => (await import('./commands/dev')).dev(),
  },
  test: {
    words: 'everything that is checked: types, lint, unit, server, browser',
    run: async (args) => (await import('./commands/test')).test(args),
  },
  check: {
    words: 'what is wrong or risky in loop files (--json)',
    run: async (args) => (await import('./commands/check')).check(args),
  },
  play: {
    words: 'plays a written conversation against loop files (--on sms, --as person.json, --json)',
    run: async (args) => (await import('./commands/play')).play(args),
  },
  answer: {
    words: 'answers a question from a folder of sources (--before, --length, --json)',
    run: async (args) => (await import('./commands/answer')).answer(args),
  },
  sheet: {
    words: 'asks the questions of a sheet, and says what came out worse than expected (--json)',
    run: async (args) => (await import('./commands/sheet')).sheet(args),
  },
  bench: {
    words: 'the figures, as ratios measured in one run',
    run: async (args) => (await import('./commands/bench')).bench(args),
  },
  start: {
    words: 'your own installation, by the settings in dartloop.env, until it is told to end',
    run: async (args) => (await import('./commands/start')).start(args),
  },
  worker: {
    words: 'one more process of the message path, on this machine or another',
    run: async () => (await import('./commands/worker')).worker(),
  },
  doctor: {
    words: 'whether everything that an installation needs is there and fits',
    run: async () => (await import('./commands/doctor')).doctor(),
  },
  backup: {
    words: 'backup [FILE]: everything but the key in one file, also while it runs',
    run: async (args) => (await import('./commands/backup')).backup(args),
  },
  restore: {
    words: 'restore FILE: a backup into an empty database',
    run: async (args) => (await import('./commands/backup')).restore(args),
  },
  account: {
    words: 'account owner EMAIL, account unlock EMAIL: when nobody can sign in',
    run: async (args) => (await import('./commands/account')).account(args),
  },
  key: {
    words: 'key rotate: seal all secrets anew with a fresh key, also while servers run',
    run: async (args) => (await import('./commands/key')).key(args),
  },
  reset: {
    words: 'forget the demo: its database, logs and stand-ins',
    run: async () => (await import('./commands/reset')).reset(),
  },
  shots: {
    words: 'take the pictures in docs/screenshots again',
    run: async () => (await import('./commands/shots')).shots(),
  },
  help: { words: 'this page', run: async () => help() },
};

function help(): void {
  console.log('Dart Loop\n\n  ./dartloop COMMAND\n');
  for (const [name, { words }] of Object.entries(COMMANDS)) console.log(`  ${name.padEnd(8)} ${words}`);
  console.log('\nNothing is written outside this folder, but for Debian packages that are missing.');
}

const [name = 'help', ...args] = process.argv.slice(2);
const command = COMMANDS[name];
if (!command) {
  console.error(`There is no command “${name}”. The commands are ${Object.keys(COMMANDS).join(', ')}.`);
  process.exit(2);
}
process.exitCode = await carryOut(command.run, args);
// What still holds the process open is nothing that anybody waits for.
process.exit();
