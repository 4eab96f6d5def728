import { useState } from 'react';
import { ApiError } from './api';

/**
 * What is done by a press: one at a time, what it was refused with said in its sentence, and `after` told in
 * any case.
 */
export function useAct(after?: () => Promise<unknown>): {
  act: (work: () => Promise<void>) => Promise<void>;
  busy: boolean;
  failure: Error | null;
  problem: string | null;
  /** What the server said of one field. */
  of: (field: string) => string | null;
  /** What was said is about something else by now. */
  forget: () => void;
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
  return {
    act,
    busy,
    failure,
    problem: failure?.message ?? null,
    of: (field) => (failure instanceof ApiError ? failure.of(field) : null),
    forget: () => setFailure(null),
  };
}
