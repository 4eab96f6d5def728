import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import useSWR from 'swr';
import type { Loop } from '@dart-loop/core';
import { mergeDrafts, type Clash } from '@dart-loop/core/loops/edit/mergeDrafts';
import type { DraftConflict, LoopPage } from '@dart-loop/contract';
import { ApiError, ask } from '../session/api';
import { dropKept, keepDraft, keptDrafts } from './keptDrafts';
import { sameJson } from '@dart-loop/core/sameJson';

const SAVE_AFTER_MS = 500;
const AGAIN_AFTER_MS = 3_000;
/** Typing in one place within this time is undone as one. */
const ONE_EDIT_MS = 4_000;

export type Saving = 'saved' | 'to be saved' | 'saving' | 'not saved';

/**
 * Somebody else's changes that have come into this draft; `clashes`: what both have changed, where ours
 * stands.
 */
export interface CameIn {
  by: string;
  clashes: Clash[];
}

export interface Draft {
  page: LoopPage | undefined;
  error: Error | undefined;
  loop: Loop | null;
  saving: Saving;
  /** Why the last try to save failed; what was written is kept on this device meanwhile. */
  problem: ApiError | null;
  cameIn: CameIn | null;
  canUndo: boolean;
  canRedo: boolean;
  /** `as` names the place that is being typed in, so that it is undone as one. */
  edit(change: (loop: Loop) => Loop, as?: string): void;
  undo(): void;
  redo(): void;
  /** The note about others' changes has been read. */
  noted(): void;
  publish(at?: string): Promise<void>;
  /** Anything else that changes the loop on the server: its answer is the page. */
  act(what: string, body?: object): Promise<void>;
  reload(): void;
}

interface Edit {
  before: Loop;
  after: Loop;
  as: string | null;
  at: number;
}

/**
 * A loop's draft: edited here at once, saved as typed, kept on the device until it is saved, undone and
 * redone without limit. What others change meanwhile is merged in step by step, and never undone with what is
 * ours.
 */
export function useDraft(client: string, loopId: string): Draft {
  const path = `/clients/${client}/loops/${loopId}`;
  const { data: page, error, mutate } = useSWR<LoopPage, Error>(path);
  const [loop, setLoop] = useState<Loop | null>(null);
  const [saving, setSaving] = useState<Saving>('saved');
  const [problem, setProblem] = useState<ApiError | null>(null);
  const [cameIn, setCameIn] = useState<CameIn | null>(null);
  const [steps, setSteps] = useState({ past: 0, future: 0 });
  const past = useRef<Edit[]>([]);
  const future = useRef<Edit[]>([]);
  /** What the server has, as far as we know, and the revision that our edits stand on. */
  const base = useRef<{ revision: number; loop: Loop } | null>(null);
  const current = useRef<Loop | null>(null);
  const inFlight = useRef<Promise<boolean> | null>(null);

  const show = useCallback((next: Loop) => {
    current.current = next;
    setLoop(next);
  }, []);
  const counted = () => setSteps({ past: past.current.length, future: future.current.length });

  /** Brings what others have saved into what is here. */
  const takeIn = useCallback(
    (revision: number, theirs: Loop, by: string | null, unsaved: boolean) => {
      const mine = current.current!;
      const { loop: merged, clashes } = mergeDrafts(base.current!.loop, mine, theirs);
      base.current = { revision, loop: theirs };
      show(merged);
      setCameIn({ by: by ?? 'Somebody', clashes });
      if (unsaved) setSaving('to be saved');
    },
    [show],
  );

  useEffect(() => {
    if (!page) return;
    if (base.current === null) {
      base.current = { revision: page.revision, loop: page.draft };
      show(page.draft);
      // What an earlier visit could not save goes in now.
      for (const kept of keptDrafts(loopId)) {
        const { loop: merged } = mergeDrafts(kept.base, kept.loop, current.current!);
        dropKept(kept.key);
        if (sameJson(merged, current.current!)) continue;
        past.current.push({ before: current.current!, after: merged, as: null, at: 0 });
        keepDraft(loopId, { base: base.current.loop, loop: merged });
        show(merged);
        setSaving('to be saved');
      }
      counted();
    } else if (page.revision > base.current.revision && saving === 'saved')
      takeIn(page.revision, page.draft, page.savedBy, false);
  }, [page, saving, loopId, show, takeIn]);

  /** Saves what is there now. False when it could not be saved. */
  const save = useCallback((): Promise<boolean> => {
    inFlight.current ??= (async () => {
      try {
        for (;;) {
          const sent = current.current!;
          setSaving('saving');
          try {
            const saved = await ask<LoopPage>('PUT', `${path}/draft`, {
              revision: base.current!.revision,
              loop: sent,
            });
            base.current = { revision: saved.revision, loop: sent };
            setProblem(null);
            await mutate(saved, { revalidate: false });
          } catch (failure) {
            const reason = failure as ApiError;
            if (reason.status !== 409) throw failure;
            const { revision, draft, savedBy } = reason.body as unknown as DraftConflict;
            takeIn(revision, draft, savedBy, true);
            continue;
          }
          if (sameJson(current.current!, sent)) {
            setSaving('saved');
            dropKept(null, loopId);
            return true;
          }
        }
      } catch (failure) {
        setProblem(failure as ApiError);
        setSaving('not saved');
        return false;
      } finally {
        inFlight.current = null;
      }
    })();
    return inFlight.current;
  }, [path, loopId, mutate, takeIn]);

  useEffect(() => {
    if (saving !== 'to be saved' && saving !== 'not saved') return;
    // A draft that the server refused for what is in it waits for the next edit.
    if (saving === 'not saved' && problem && problem.status >= 400 && problem.status < 500) return;
    const timer = setTimeout(() => void save(), saving === 'to be saved' ? SAVE_AFTER_MS : AGAIN_AFTER_MS);
    return () => clearTimeout(timer);
  }, [saving, loop, problem, save]);

  const put = useCallback(
    (next: Loop) => {
      show(next);
      setCameIn(null);
      setSaving('to be saved');
      keepDraft(loopId, { base: base.current!.loop, loop: next });
      counted();
    },
    [loopId, show],
  );

  const edit = useCallback(
    (change: (loop: Loop) => Loop, as: string | null = null) => {
      const before = current.current;
      if (!before) return;
      const after = change(before);
      if (sameJson(after, before)) return;
      const last = past.current.at(-1);
      if (
        last &&
        as !== null &&
        last.as === as &&
        last.after === before &&
        Date.now() - last.at < ONE_EDIT_MS
      )
        past.current[past.current.length - 1] = { ...last, after, at: Date.now() };
      else past.current.push({ before, after, as, at: Date.now() });
      future.current = [];
      put(after);
    },
    [put],
  );
  /** From one side of an edit to the other, leaving alone what others have done since. */
  const turn = useCallback(
    (from: Loop, to: Loop) =>
      put(sameJson(current.current!, from) ? to : mergeDrafts(from, current.current!, to).loop),
    [put],
  );
  const undo = useCallback(() => {
    const last = past.current.pop();
    if (!last) return;
    future.current.push(last);
    turn(last.after, last.before);
  }, [turn]);
  const redo = useCallback(() => {
    const next = future.current.pop();
    if (!next) return;
    past.current.push({ ...next, as: null });
    turn(next.before, next.after);
  }, [turn]);

  const act = useCallback(
    async (what: string, body: object = {}) => {
      await mutate(await ask<LoopPage>('POST', `${path}/${what}`, body), { revalidate: false });
    },
    [mutate, path],
  );
  const publish = useCallback(
    async (at?: string) => {
      if (saving !== 'saved' && !(await save()))
        throw new ApiError(0, 'Not published', 'The draft could not be saved, so it was not published.');
      await act('publish', { revision: base.current!.revision, ...(at && { at }) });
    },
    [saving, save, act],
  );
  const noted = useCallback(() => setCameIn(null), []);
  const reload = useCallback(() => void mutate(), [mutate]);

  return useMemo(
    () => ({
      page,
      error,
      loop,
      saving,
      problem,
      cameIn,
      canUndo: steps.past > 0,
      canRedo: steps.future > 0,
      edit,
      undo,
      redo,
      noted,
      publish,
      act,
      reload,
    }),
    [page, error, loop, saving, problem, cameIn, steps, edit, undo, redo, noted, publish, act, reload],
  );
}
