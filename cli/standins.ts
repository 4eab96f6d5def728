import { join } from 'node:path';
import { keepRunning, startChild } from './children';
import { takePort } from './machine';

/** The stand-ins of the platforms as a process beside the server, brought back at the same address. */
export interface RunningStandins {
  address: string;
  mailPort: number;
  stop(): Promise<void>;
}

/** Where the stand-ins take mail. */
export const mailPortOf = async (address: string): Promise<number> =>
  ((await (await fetch(`${address}/control/mail`)).json()) as { port: number }).port;

/**
 * `folder`: where what was said is kept over a restart, and their log. `secret`: what they make the secrets
 * of accounts from; left out, what a demonstration has.
 */
export async function keepStandins(
  bundle: string,
  folder: string,
  say: (words: string) => void,
  secret?: string,
): Promise<RunningStandins> {
  const taken = await takePort(0);
  let mailPort = 0;
  const kept = await keepRunning(
    'the stand-ins',
    async () => {
      await taken.release();
      const more = {
        STANDINS_STATE: join(folder, 'standins.json'),
        STANDINS_PORT: String(taken.port),
        ...(mailPort && { STANDINS_MAIL_PORT: String(mailPort) }),
        ...(secret !== undefined && { STANDINS_SECRET: secret }),
      };
      return startChild(bundle, [], more, join(folder, 'standins.log'));
    },
    say,
  );
  const { address } = kept.child;
  mailPort = await mailPortOf(address);
  return { address, mailPort, stop: () => kept.stop() };
}
