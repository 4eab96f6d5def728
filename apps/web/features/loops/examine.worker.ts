import { z } from 'zod';
import { examine, type Examined } from '@dart-loop/core/loops/check/examine';
import type { Loop, Surroundings } from '@dart-loop/core';

// The content policy allows no code made of text.
z.config({ jitless: true });

export interface ToExamine {
  id: number;
  loop: Loop;
  known: Surroundings;
}
export interface WasExamined {
  id: number;
  examined: Examined;
  /** How long it took, in ms. */
  took: number;
}

globalThis.onmessage = ({ data }: MessageEvent<ToExamine>) => {
  const began = performance.now();
  const examined = examine(data.loop, data.known);
  (globalThis as unknown as Worker).postMessage({
    id: data.id,
    examined,
    took: performance.now() - began,
  } satisfies WasExamined);
};
