import { NotStarted, readConfig } from './platform/config';
import { hearFaults } from './platform/fault';
import { makeLog } from './platform/log';
import { startServer, startWorker } from './server';

// Every loop of ours sees to its own failures; what slips through is written down, and does not end what all
// clients stand on.
process.on('unhandledRejection', (error) =>
  makeLog('error').error({ error: (error as Error)?.stack ?? String(error) }, 'a failure was not seen to'),
);

/** An end that does not come to its end is made one. */
const ENDS_WITHIN_MS = 8_000;

/** `main.ts` starts the server; `main.ts worker` starts one more worker of the message path. */
const { running, patienceMs } = await start().catch((error: unknown) => {
  // What whoever runs it can mend is said in its sentence alone.
  console.error(error instanceof NotStarted ? error.message : error);
  process.exit(1);
});
const stop = () => {
  void running.stop().then(
    () => process.exit(0),
    () => process.exit(1),
  );
  setTimeout(() => process.exit(1), patienceMs).unref();
};
process.once('SIGTERM', stop);
process.once('SIGINT', stop);
// Whoever started this process is gone: nothing may stay behind.
process.once('disconnect', stop);
process.send?.({ address: 'address' in running ? running.address : null });
hearFaults();

async function start() {
  const config = readConfig(process.env);
  const running = await (process.argv[2] === 'worker' ? startWorker : startServer)(config);
  return { running, patienceMs: ENDS_WITHIN_MS + config.drainSeconds * 1_000 };
}
