import { useEffect, useMemo, useState } from 'react';
import type { SomebodyHere } from '@dart-loop/contract';
import { ask } from '../session/api';
import { thisScreen } from './keptDrafts';

const SAY_EVERY_MS = 8_000;
const GONE_AFTER_MS = 20_000;

/** Tells the others where we are in the loop, and who else is there: by step, and all of them. */
export function usePresence(
  client: string,
  loopId: string,
  stepId: string | null,
): { atStep: Readonly<Record<string, string>>; all: string[] } {
  const [here, setHere] = useState<Record<string, SomebodyHere & { at: number }>>({});
  useEffect(() => {
    const say = () =>
      void ask('POST', `/clients/${client}/loops/${loopId}/here`, { screen: thisScreen(), stepId }).catch(
        () => undefined,
      );
    say();
    const timer = setInterval(() => {
      say();
      setHere((before) => {
        const kept = Object.entries(before).filter(([, each]) => Date.now() - each.at < GONE_AFTER_MS);
        return kept.length === Object.keys(before).length ? before : Object.fromEntries(kept);
      });
    }, SAY_EVERY_MS);
    return () => clearInterval(timer);
  }, [client, loopId, stepId]);
  useEffect(() => {
    const heard = (event: Event) => {
      const somebody = (event as CustomEvent<SomebodyHere>).detail;
      if (somebody.loopId !== loopId || somebody.screen === thisScreen()) return;
      setHere((before) => ({ ...before, [somebody.screen]: { ...somebody, at: Date.now() } }));
    };
    window.addEventListener('dart-loop:here', heard);
    return () => window.removeEventListener('dart-loop:here', heard);
  }, [loopId]);
  return useMemo(() => {
    const atStep: Record<string, string> = {};
    for (const { stepId: step, name } of Object.values(here))
      if (step) atStep[step] = atStep[step] ? `${atStep[step]}, ${name}` : `${name} is here`;
    return { atStep, all: [...new Set(Object.values(here).map(({ name }) => name))] };
  }, [here]);
}
