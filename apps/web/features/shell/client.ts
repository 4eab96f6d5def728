import { useGlobalSearchParams, usePathname } from 'expo-router';
import { useEffect } from 'react';
import type { ClientSummary, Session } from '@dart-loop/contract';

const KEPT = 'dart-loop.client';

/** The client named in the address; else the one looked at last; else the first. */
export function useCurrentClient(session: Session | null | undefined): ClientSummary | undefined {
  const path = usePathname();
  const params = useGlobalSearchParams<{ client?: string }>();
  const clients = session?.clients ?? [];
  const named = clients.find((client) => client.slug === (params.client ?? path.split('/')[1]));
  useEffect(() => {
    if (named) localStorage.setItem(KEPT, named.slug);
  }, [named]);
  return named ?? clients.find((client) => client.slug === localStorage.getItem(KEPT)) ?? clients[0];
}
