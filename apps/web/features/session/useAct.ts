import { useState } from 'react';

/** What is done by a press: one at a time, what it was refused with said in its sentence, and `after` told in any case. */
export function useAct(after?: () => Promise<unknown>): {
  act: (work: () => Promise<void>) => Promise<void>;
  busy: boolean;
  problem: string | null;
} {
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const act = async (work: () => Promise<void>) => {
    setProblem(null);
    setBusy(true);
    try {
      await work();
    } catch (failure) {
      setProblem((failure as Error).message);
    }
    setBusy(false);
    await after?.();
  };
  return { act, busy, problem };
}
