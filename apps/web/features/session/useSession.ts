import { useEffect } from 'react';
import useSWR, { useSWRConfig } from 'swr';
import type { Session } from '@dart-loop/contract';
import { may, type Permission } from '@dart-loop/contract/roles';
import { dropAsked, isBelow, type ApiError } from './api';

/** Who is signed in; null when nobody is. */
export function useSession() {
  return useSWR<Session | null, ApiError>('/session');
}

/** What whoever is signed in may do; nothing until that is known. */
export function useMay(): (permission: Permission) => boolean {
  const account = useSession().data?.account;
  return (permission) => account !== undefined && may(account, permission);
}

const REFUSED_MS = 30_000;

const left = new Set<string>();

/** Whether what a key stands for is asked for again when something has changed. */
export function isLive(key: unknown): boolean {
  if (typeof key !== 'string') return false;
  return ![...left].some((path) => isBelow(path, key));
}

/**
 * For a page whose subject is taken away by a press: from then on, and until the page is gone, what stands
 * below its path is not asked for again, and what is being asked for is dropped. A refusal ends that, and is
 * thrown on.
 */
export function useLeaving(path: string): (work: () => Promise<void>) => Promise<void> {
  const { mutate } = useSWRConfig();
  useEffect(() => () => void left.delete(path), [path]);
  return async (work) => {
    left.add(path);
    dropAsked(path);
    try {
      await work();
    } catch (refused) {
      left.delete(path);
      void mutate((key) => typeof key === 'string' && isBelow(path, key));
      throw refused;
    }
  };
}

/** Listens for changes and asks again for what is on the screen. */
export function useLive(signedIn: boolean) {
  const { mutate } = useSWRConfig();
  useEffect(() => {
    if (!signedIn) return;
    let source: EventSource;
    let again: ReturnType<typeof setTimeout> | null = null;
    let soon: ReturnType<typeof setTimeout> | null = null;
    const refresh = () => {
      soon ??= setTimeout(() => {
        soon = null;
        void mutate(isLive);
      }, 100);
    };
    let lost = false;
    const open = () => {
      source = new EventSource('/api/live');
      source.onmessage = refresh;
      source.addEventListener('here', (event) =>
        window.dispatchEvent(
          new CustomEvent('dart-loop:here', {
            detail: JSON.parse((event as MessageEvent<string>).data) as unknown,
          }),
        ),
      );
      source.onerror = () => {
        lost = true;
        // A server that refuses is asked again later; one that is merely away is by the browser itself.
        if (source.readyState === EventSource.CLOSED)
          again ??= setTimeout(() => ((again = null), open()), REFUSED_MS);
      };
      // After a break, what was missed is asked for.
      source.onopen = () => {
        if (lost) refresh();
        lost = false;
      };
    };
    open();
    return () => {
      source.close();
      if (again) clearTimeout(again);
      if (soon) clearTimeout(soon);
    };
  }, [signedIn, mutate]);
}
