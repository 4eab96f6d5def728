import { useEffect, useRef, useState } from 'react';
import type { Loop, Surroundings } from '@dart-loop/core';
import type { Examined } from '@dart-loop/core/loops/check/examine';
import type { ToExamine, WasExamined } from './examine.worker';

/**
 * Findings, paths and takes of the draft, worked out beside the page while one writes: typing never waits for
 * them. Null until they are there.
 */
export function useExamined(
  loop: Loop | null,
  known: Surroundings | undefined,
): { examined: Examined | null; current: boolean } {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const busy = useRef(false);
  const next = useRef<ToExamine | null>(null);
  const [state, setState] = useState<{ examined: Examined; id: number } | null>(null);
  const [latest, setLatest] = useState(0);

  useEffect(() => {
    const made = new Worker(new URL('./examine.worker', import.meta.url));
    worker.current = made;
    made.onmessage = ({ data }: MessageEvent<WasExamined>) => {
      busy.current = false;
      setState({ examined: data.examined, id: data.id });
      const waiting = next.current;
      next.current = null;
      if (waiting) {
        busy.current = true;
        made.postMessage(waiting);
      }
    };
    // A defect in the checks must not stop the next ones.
    made.onerror = (event) => {
      event.preventDefault();
      busy.current = false;
      console.error(`The checks met a fault of their own: ${event.message}`);
    };
    return () => {
      worker.current = null;
      made.terminate();
    };
  }, []);

  useEffect(() => {
    if (!loop || !known || !worker.current) return;
    const id = ++asked.current;
    setLatest(id);
    const message: ToExamine = { id, loop, known };
    // One at a time; of those that wait, only the newest matters.
    if (busy.current) next.current = message;
    else {
      busy.current = true;
      worker.current.postMessage(message);
    }
  }, [loop, known]);

  return { examined: state?.examined ?? null, current: state?.id === latest };
}
