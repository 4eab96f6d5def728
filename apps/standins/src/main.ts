import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { makeStandins, restore, stateOf } from './standins';

const standins = makeStandins();
const { app, mail } = standins;
await mail.start(Number(process.env.STANDINS_MAIL_PORT ?? 0));
const server = app.listen(Number(process.env.STANDINS_PORT ?? 0), '127.0.0.1', () =>
  process.send?.({ address: `http://127.0.0.1:${(server.address() as AddressInfo).port}` }),
);
server.keepAliveTimeout = 30_000;
/** What was said is kept over a restart, as a platform would. */
const stateFile = process.env.STANDINS_STATE;
if (stateFile && existsSync(stateFile)) restore(standins, readFileSync(stateFile, 'utf8'));
const keepState = () => stateFile && writeFileSync(stateFile, JSON.stringify(stateOf(standins)));
if (stateFile) setInterval(keepState, 20_000).unref();
const stop = () => {
  keepState();
  void mail.stop();
  server.close(() => process.exit(0));
  server.closeAllConnections();
};
process.once('SIGTERM', stop);
process.once('SIGINT', stop);
process.once('disconnect', stop);
