import { act, renderHook, waitFor } from '@testing-library/react-native';
import { SWRConfig } from 'swr';
import type { LoopPage } from '@dart-loop/contract';
import { renameScene } from '@dart-loop/core/loops/edit/edits';
import { get } from '../features/session/api';
import { useDraft } from '../features/loops/useDraft';

/** A server that keeps one loop and refuses a save on an older revision, as ours does. */
class Server {
  revision = 1;
  draft: LoopPage['draft'] = {
    format: 'dart-loop/1',
    name: 'Sailing alerts',
    lines: [],
    cues: [],
    scenes: [{ id: 'a', name: 'Welcome', steps: [] }],
  };
  saves = 0;
  down = false;
  page = (): LoopPage => ({
    id: 'l1',
    revision: this.revision,
    draft: this.draft,
    savedAt: '2026-11-24T09:00:00Z',
    savedBy: 'Odile Marrow',
    state: 'never published',
    live: null,
    scheduled: null,
    scheduleFailed: null,
    onTheWay: {},
    differences: [],
    problems: [],
    peopleInIt: 0,
    reached: {},
    lines: [],
    brief: {},
    files: {},
    fields: [],
  });
  fetch = async (_path: string, init?: { method?: string; body?: string }) => {
    if (this.down) throw new TypeError('no network');
    const answer = (status: number, body: object) =>
      ({
        ok: status < 300,
        status,
        headers: new Headers({ 'content-type': 'application/json' }),
        text: async () => JSON.stringify(body),
      }) as Response;
    if (init?.method !== 'PUT') return answer(200, this.page());
    const asked = JSON.parse(init.body!) as { revision: number; loop: LoopPage['draft'] };
    if (asked.revision !== this.revision)
      return answer(409, {
        status: 409,
        title: 'Changed meanwhile',
        detail: 'x',
        revision: this.revision,
        draft: this.draft,
        savedBy: 'Odile Marrow',
      });
    this.revision++;
    this.saves++;
    this.draft = asked.loop;
    return answer(200, this.page());
  };
}

let server: Server;
const kept = new Map<string, string>();
beforeEach(() => {
  server = new Server();
  kept.clear();
  globalThis.fetch = server.fetch as unknown as typeof fetch;
  globalThis.localStorage = {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
    removeItem: (key: string) => void kept.delete(key),
  } as unknown as Storage;
  // Entries can be listed, as in a browser.
  globalThis.localStorage = new Proxy(globalThis.localStorage, {
    ownKeys: () => [...kept.keys()],
    getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }),
  });
  const screen = new Map<string, string>();
  globalThis.sessionStorage = {
    getItem: (key: string) => screen.get(key) ?? null,
    setItem: (key: string, value: string) => void screen.set(key, value),
  } as unknown as Storage;
});

async function open() {
  const hook = renderHook(() => useDraft('saltmarsh-ferries', 'l1'), {
    wrapper: ({ children }: { children: React.ReactNode }) => (
      <SWRConfig value={{ fetcher: get, provider: () => new Map(), dedupingInterval: 0 }}>
        {children}
      </SWRConfig>
    ),
  });
  await waitFor(() => expect(hook.result.current.loop).not.toBeNull());
  return hook;
}
const rename = (name: string) => (loop: LoopPage['draft']) => renameScene(loop, 'a', name);

test('an edit shows at once, is kept on the device, and is saved a moment later', async () => {
  const { result } = await open();
  act(() => result.current.edit(rename('Hello')));
  expect(result.current.loop!.scenes[0]!.name).toBe('Hello');
  expect(result.current.saving).toBe('to be saved');
  expect(kept.size).toBe(1);
  await waitFor(() => expect(result.current.saving).toBe('saved'));
  expect(server.draft.scenes[0]!.name).toBe('Hello');
  expect(kept.size).toBe(0);
});

test('undo and redo go back and forth, and each is saved', async () => {
  const { result } = await open();
  act(() => result.current.edit(rename('One')));
  act(() => result.current.edit(rename('Two')));
  act(() => result.current.undo());
  expect(result.current.loop!.scenes[0]!.name).toBe('One');
  act(() => result.current.undo());
  expect(result.current.loop!.scenes[0]!.name).toBe('Welcome');
  expect(result.current.canUndo).toBe(false);
  act(() => result.current.redo());
  await waitFor(() => expect(server.draft.scenes[0]!.name).toBe('One'));
  act(() => result.current.edit((loop) => loop));
  expect(result.current.canRedo).toBe(true);
});

const second = (loop: LoopPage['draft'], name: string) => ({
  ...loop,
  scenes: [...loop.scenes, { id: name, name, steps: [] }],
});

test('what somebody else has saved meanwhile is merged in, and told; undoing takes back only ours', async () => {
  const { result } = await open();
  server.revision = 7;
  server.draft = second(server.draft, 'theirs');
  act(() => result.current.edit(rename('Mine')));
  await waitFor(() => expect(result.current.saving).toBe('saved'));
  expect(server.draft.scenes.map(({ name }) => name)).toEqual(['Mine', 'theirs']);
  expect(result.current.cameIn).toEqual({ by: 'Odile Marrow', clashes: [] });
  act(() => result.current.undo());
  await waitFor(() => expect(server.draft.scenes.map(({ name }) => name)).toEqual(['Welcome', 'theirs']));
});

test('where both have changed the same, ours stands and theirs is kept at hand', async () => {
  const { result } = await open();
  server.revision = 7;
  server.draft = rename('Theirs')(server.draft);
  act(() => result.current.edit(rename('Mine')));
  await waitFor(() => expect(server.draft.scenes[0]!.name).toBe('Mine'));
  expect(result.current.cameIn).toMatchObject({
    clashes: [{ sceneId: 'a', path: ['name'], theirs: 'Theirs' }],
  });
  act(() => result.current.noted());
  expect(result.current.cameIn).toBeNull();
});

test('typing in one place is undone as one; typing elsewhere is not', async () => {
  const { result } = await open();
  for (const name of ['H', 'He', 'Hey']) act(() => result.current.edit(rename(name), 'scene a'));
  act(() => result.current.edit((loop) => ({ ...loop, name: 'Other' }), 'name'));
  act(() => result.current.undo());
  expect(result.current.loop!).toMatchObject({ name: 'Sailing alerts', scenes: [{ name: 'Hey' }] });
  act(() => result.current.undo());
  expect(result.current.loop!.scenes[0]!.name).toBe('Welcome');
  expect(result.current.canUndo).toBe(false);
});

test('two windows that could not save keep both of their drafts, and both come back', async () => {
  const base = server.draft;
  kept.set('dart-loop.draft.l1.one', JSON.stringify({ base, loop: rename('From one')(base) }));
  kept.set('dart-loop.draft.l1.two', JSON.stringify({ base, loop: second(base, 'from two') }));
  await open();
  await waitFor(() => expect(server.draft.scenes.map(({ name }) => name)).toEqual(['From one', 'from two']));
  expect([...kept.keys()]).toEqual([]);
});

test('through a lost connection what was written is kept, and saved when it is back', async () => {
  const { result } = await open();
  server.down = true;
  act(() => result.current.edit(rename('Offline')));
  await waitFor(() => expect(result.current.saving).toBe('not saved'));
  expect(result.current.problem!.message).toContain('kept');
  expect([...kept.values()][0]).toContain('Offline');
  server.down = false;
  await waitFor(() => expect(server.draft.scenes[0]!.name).toBe('Offline'), { timeout: 6_000 });
}, 15_000);

test('what was not saved before a reload comes back, as an edit that can be undone', async () => {
  kept.set(
    'dart-loop.draft.l1.here',
    JSON.stringify({ base: server.draft, loop: rename('Before the reload')(server.draft) }),
  );
  const { result } = await open();
  await waitFor(() => expect(result.current.loop!.scenes[0]!.name).toBe('Before the reload'));
  expect(result.current.canUndo).toBe(true);
  await waitFor(() => expect(server.draft.scenes[0]!.name).toBe('Before the reload'));
});
