import { useState } from 'react';

/**
 * What is done by a press: one at a time, what it was refused with said in its sentence, and `after` told in
 * any case.
 */
export function useAct(after?: () => Promise<unknown>): {
  act: (work: () => Promise<void>) => Promise<void>;
  busy: boolean;
  failure: Error | null;
  problem: string | null;
} {
  const [busy, setBusy] = useState(false);
  const [failure, setFailure] = useState<Error | null>(null);
  const act = async (work: () => Promise<void>) => {
    setFailure(null);
    setBusy(true);
    try {
      await work();
    } catch (thrown) {
      setFailure(thrown as Error);
    }
    setBusy(false);
    await after?.();
  };
  return { act, busy, failure, problem: failure?.message ?? null };
}
