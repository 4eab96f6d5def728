import { render } from '@testing-library/react-native';
import type { ReactNode } from 'react';
import { SWRConfig } from 'swr';
import { ThemeProvider } from '../../ui/theme';

/** What of a browser's page the screens ask for. */
Object.assign(globalThis, {
  document: { documentElement: { dataset: {}, style: {} }, body: { style: {} }, title: '' },
});

/** The server as a screen sees it. */
export interface PlayedServer {
  /** What is answered, by method and path, such as `POST /clients/a/lines`. */
  answers: Record<string, unknown>;
  /** What was asked for by presses, in order. */
  asked: { what: string; body: unknown }[];
}

/** Answers what presses ask for; what has no answer is answered by nothing, as most changes are. */
export function playServer(): PlayedServer {
  const played: PlayedServer = { answers: {}, asked: [] };
  globalThis.fetch = jest.fn(async (url: string, { method, body }: RequestInit) => {
    const what = `${method} ${url.replace('/api', '')}`;
    played.asked.push({ what, body: body === undefined ? null : (JSON.parse(body as string) as unknown) });
    const answer = played.answers[what];
    return new Response(answer === undefined ? '' : JSON.stringify(answer), {
      headers: { 'content-type': 'application/json' },
    });
  }) as never;
  return played;
}

/** Shows a screen to an owner. `known`: what it reads, by path; else what the server answers to its GET. */
export function showScreen(screenOf: ReactNode, server: PlayedServer, known: Record<string, unknown> = {}) {
  const session = { account: { id: 1, role: 'owner', grants: [] }, clients: [], testPhone: null };
  return render(
    <SWRConfig
      value={{
        provider: () => new Map(),
        dedupingInterval: 0,
        fetcher: async (path: string) =>
          known[path] ?? server.answers[`GET ${path}`] ?? (path === '/session' ? session : undefined),
      }}
    >
      <ThemeProvider>{screenOf}</ThemeProvider>
    </SWRConfig>,
  );
}
