import { useState } from 'react';
import useSWR from 'swr';
import type { LineRow, PhoneAct, PhonePage } from '@dart-loop/contract';
import { ask } from '../session/api';

/** Somebody whom the phone plays. */
export interface Customer {
  who: string;
  name: string;
}

type Doing<T> = T extends unknown ? Omit<T, 'line' | 'who' | 'name'> : never;

/** What somebody sees on their phone, and what they do with it. */
export function useHandset(client: string, line: LineRow, { who, name }: Customer) {
  const path = `/clients/${client}/test-phone`;
  const [problem, setProblem] = useState<Error | null>(null);
  const { data, mutate } = useSWR<PhonePage>(`${path}?line=${line.id}&who=${encodeURIComponent(who)}`, {
    refreshInterval: 1_000,
  });
  /** Resolves to whether it was done. */
  const act = async (what: Doing<PhoneAct>): Promise<boolean> => {
    setProblem(null);
    try {
      await mutate(await ask<PhonePage>('POST', path, { line: line.id, who, name, ...what }), {
        revalidate: false,
      });
      return true;
    } catch (error) {
      setProblem(error as Error);
      return false;
    }
  };
  return { data, problem, act };
}
export type Act = ReturnType<typeof useHandset>['act'];
