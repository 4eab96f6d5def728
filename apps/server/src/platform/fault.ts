/** The numbered points between a webhook and a sent message at which the fault tests kill a process. */
export const FAULT_POINTS = {
  1: 'the webhook is verified, nothing is stored',
  2: 'the events are stored, the platform has no answer yet',
  3: 'the conversations are claimed',
  4: 'the answer is computed, nothing is written',
  5: 'everything is written, the transaction is open',
  6: 'the transaction is committed, the sender is not woken',
  7: 'the message is taken up, the platform was not called',
  8: 'the platform has answered, nothing is marked',
  9: 'the message is marked as sent',
} as const;
/** The same on the way to another system. */
export const OUTSIDE_FAULT_POINTS = {
  10: 'the other system has answered, the errand is not marked',
  11: 'the other system has answered, the delivery is not marked',
} as const;
export type FaultPoint = keyof typeof FAULT_POINTS | keyof typeof OUTSIDE_FAULT_POINTS;

let armed: FaultPoint | null = null;

/**
 * Lets the process that started this one say at which point it is to be killed: a message `{ fault }`, which
 * is given back. Whoever asks waits until nothing is under way, so that what an earlier life left is not what
 * meets the point.
 */
export function hearFaults(): void {
  process.on('message', (message: { fault?: FaultPoint }) => {
    if (message.fault === undefined) return;
    armed = message.fault;
    process.send?.(message);
  });
}

/** Kills this process without ceremony when the test asked for it at this point. Does nothing otherwise. */
export function faultPoint(here: FaultPoint): void {
  if (armed === here) process.kill(process.pid, 'SIGKILL');
}
