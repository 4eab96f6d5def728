import { Stop, Unusable } from './machine';

/** Runs a command and gives its exit status: 2 for what cannot be used, 1 for whatever else went wrong. */
export async function carryOut(
  run: (args: string[]) => Promise<number | void>,
  args: string[],
): Promise<number> {
  try {
    const status = await run(args);
    return status ?? Number(process.exitCode ?? 0);
  } catch (error) {
    const unusable = error instanceof Unusable;
    console.error(unusable ? error.message : error instanceof Stop ? `\n${error.message}` : error);
    return unusable ? 2 : 1;
  }
}
