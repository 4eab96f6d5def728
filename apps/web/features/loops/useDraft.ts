import { useCallback, useEffect, useRef, useState } from 'react';
import useSWR from 'swr';
import type { Loop } from '@dart-loop/core';
import type { DraftConflict, LoopPage } from '@dart-loop/contract';
import { ApiError, ask } from '../session/api';

const SAVE_AFTER_MS = 500;
const AGAIN_AFTER_MS = 3_000;

export type Saving = 'saved' | 'to be saved' | 'saving' | 'not saved';

export interface Draft {
  page: LoopPage | undefined;
  error: Error | undefined;
  loop: Loop | null;
  saving: Saving;
  /** Why the last try to save failed; what was written is kept on this device meanwhile. */
  problem: ApiError | null;
  /** Somebody else saved in between: nothing of theirs is written over until the person decides. */
  conflict: DraftConflict | null;
  /** Who has just changed the draft elsewhere, and it was taken over here. */
  takenOver: string | null;
  canUndo: boolean;
  canRedo: boolean;
  edit(change: (loop: Loop) => Loop): void;
  undo(): void;
  redo(): void;
  takeTheirs(): void;
  keepMine(): void;
  publish(): Promise<void>;
  reload(): void;
}

interface Kept {
  revision: number;
  loop: Loop;
}

/** A loop's draft: edited here at once, saved as typed, undone and redone without limit, never written over others' work silently. */
export function useDraft(client: string, loopId: string): Draft {
  const path = `/clients/${client}/loops/${loopId}`;
  const keptAt = `dart-loop.draft.${loopId}`;
  const { data: page, error, mutate } = useSWR<LoopPage, Error>(path);
  const [loop, setLoop] = useState<Loop | null>(null);
  const [past, setPast] = useState<Loop[]>([]);
  const [future, setFuture] = useState<Loop[]>([]);
  const [saving, setSaving] = useState<Saving>('saved');
  const [problem, setProblem] = useState<ApiError | null>(null);
  const [conflict, setConflict] = useState<DraftConflict | null>(null);
  const [takenOver, setTakenOver] = useState<string | null>(null);
  /** The revision that our edits stand on. */
  const revision = useRef(0);
  const current = useRef<Loop | null>(null);
  const inFlight = useRef<Promise<boolean> | null>(null);
  current.current = loop;

  const begin = useCallback((next: Loop, from: number) => {
    revision.current = from;
    setLoop(next);
    setSaving('saved');
  }, []);

  // What the server has: taken at the start, and whenever nothing of ours is unsaved.
  useEffect(() => {
    if (!page) return;
    if (current.current === null) {
      const kept = readKept(keptAt);
      begin(page.draft, page.revision);
      if (kept && JSON.stringify(kept.loop) !== JSON.stringify(page.draft)) {
        setPast([page.draft]);
        setLoop(kept.loop);
        if (kept.revision === page.revision) setSaving('to be saved');
        else setConflict({ revision: page.revision, draft: page.draft, savedBy: page.savedBy });
      }
    } else if (page.revision > revision.current && saving === 'saved' && !conflict) {
      setPast((before) => [...before, current.current!]);
      setFuture([]);
      setTakenOver(page.savedBy ?? 'Somebody');
      begin(page.draft, page.revision);
    }
  }, [page, saving, conflict, begin, keptAt]);

  /** Saves what is there now. False when it could not be saved. */
  const save = useCallback((): Promise<boolean> => {
    inFlight.current ??= (async () => {
      try {
        for (;;) {
          const sent = current.current!;
          setSaving('saving');
          const saved = await ask<LoopPage>('PUT', `${path}/draft`, { revision: revision.current, loop: sent });
          revision.current = saved.revision;
          setProblem(null);
          await mutate(saved, { revalidate: false });
          if (current.current === sent) {
            setSaving('saved');
            localStorage.removeItem(keptAt);
            return true;
          }
        }
      } catch (failure) {
        const reason = failure as ApiError;
        if (reason.status === 409) setConflict(reason.body as unknown as DraftConflict);
        else setProblem(reason);
        setSaving('not saved');
        return false;
      } finally {
        inFlight.current = null;
      }
    })();
    return inFlight.current;
  }, [path, mutate, keptAt]);

  useEffect(() => {
    if (conflict || (saving !== 'to be saved' && saving !== 'not saved')) return;
    // A draft that the server refused for what is in it waits for the next edit.
    if (saving === 'not saved' && problem && problem.status >= 400 && problem.status < 500) return;
    const timer = setTimeout(() => void save(), saving === 'to be saved' ? SAVE_AFTER_MS : AGAIN_AFTER_MS);
    return () => clearTimeout(timer);
  }, [saving, loop, conflict, problem, save]);

  const put = useCallback(
    (next: Loop) => {
      setLoop(next);
      setTakenOver(null);
      setSaving('to be saved');
      localStorage.setItem(keptAt, JSON.stringify({ revision: revision.current, loop: next } satisfies Kept));
    },
    [keptAt],
  );

  return {
    page,
    error,
    loop,
    saving,
    problem,
    conflict,
    takenOver,
    canUndo: past.length > 0,
    canRedo: future.length > 0,
    edit(change) {
      const before = current.current;
      if (!before) return;
      const after = change(before);
      if (after === before || JSON.stringify(after) === JSON.stringify(before)) return;
      setPast([...past, before]);
      setFuture([]);
      current.current = after;
      put(after);
    },
    undo() {
      const last = past.at(-1);
      if (!last || !loop) return;
      setPast(past.slice(0, -1));
      setFuture([loop, ...future]);
      put(last);
    },
    redo() {
      const [next, ...rest] = future;
      if (!next || !loop) return;
      setPast([...past, loop]);
      setFuture(rest);
      put(next);
    },
    takeTheirs() {
      if (!conflict || !loop) return;
      // Ours stays one undo away.
      setPast([...past, loop]);
      setFuture([]);
      localStorage.removeItem(keptAt);
      setConflict(null);
      begin(conflict.draft, conflict.revision);
      void mutate();
    },
    keepMine() {
      if (!conflict) return;
      revision.current = conflict.revision;
      setConflict(null);
      setSaving('to be saved');
    },
    async publish() {
      if (saving !== 'saved' && !(await save()))
        throw new ApiError(0, 'Not published', 'The draft could not be saved, so it was not published.');
      await mutate(await ask<LoopPage>('POST', `${path}/publish`, { revision: revision.current }), { revalidate: false });
    },
    reload: () => void mutate(),
  };
}

function readKept(key: string): Kept | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? 'null') as Kept | null;
  } catch {
    return null;
  }
}
