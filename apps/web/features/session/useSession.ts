import { useEffect } from 'react';
import useSWR, { useSWRConfig } from 'swr';
import type { Session } from '@dart-loop/contract';
import type { ApiError } from './api';

/** Who is signed in; null when nobody is. */
export function useSession() {
  return useSWR<Session | null, ApiError>('/session');
}

/** Listens for changes and asks again for what is on the screen. */
export function useLive(signedIn: boolean) {
  const { mutate } = useSWRConfig();
  useEffect(() => {
    if (!signedIn) return;
    const source = new EventSource('/api/live');
    let soon: ReturnType<typeof setTimeout> | null = null;
    const refresh = () => {
      soon ??= setTimeout(() => {
        soon = null;
        void mutate((key) => typeof key === 'string' || (Array.isArray(key) && key[0] === 'page'));
      }, 100);
    };
    let lost = false;
    source.onmessage = refresh;
    source.addEventListener('here', (event) =>
      window.dispatchEvent(new CustomEvent('dart-loop:here', { detail: JSON.parse((event as MessageEvent<string>).data) as unknown })),
    );
    source.onerror = () => (lost = true);
    // After a break, what was missed is asked for.
    source.onopen = () => {
      if (lost) refresh();
      lost = false;
    };
    return () => {
      source.close();
      if (soon) clearTimeout(soon);
    };
  }, [signedIn, mutate]);
}
