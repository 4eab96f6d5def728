import { useState } from 'react';

/**
 * What is being written of something that others may change too: what stands there until the first change of
 * one's own, and from then on one's own.
 * `seen`: the revision that it was begun from. `leave`: what stands there again.
 */
export function useWritten<D extends object>(
  stands: D,
  revision?: string,
): {
  written: D;
  changed: boolean;
  seen: string | undefined;
  write: (change: (now: D) => D) => void;
  leave: () => void;
} {
  const [own, setOwn] = useState<{ written: D; seen: string | undefined } | null>(null);
  const { written, seen } = own ?? { written: stands, seen: revision };
  return {
    written,
    changed: own !== null,
    seen,
    write: (change) =>
      setOwn((now) => ({ written: change(now?.written ?? stands), seen: now ? now.seen : revision })),
    leave: () => setOwn(null),
  };
}
