import { useCallback, useMemo, useRef, useState } from 'react';
import type { Finding, FieldTypes, Loop } from '@dart-loop/core';
import { accept } from '@dart-loop/core/loops/check/findings';
import { clipScenes, clipSteps, paste } from '@dart-loop/core/loops/edit/clipping';
import {
  addChoice,
  addScene,
  duplicateStep,
  moveScene,
  moveSteps,
  placeSteps,
  removeScene,
  removeSteps,
  renameScene,
} from '@dart-loop/core/loops/edit/edits';
import { makeEdits } from '@dart-loop/core/loops/edit/loopEdit';
import { typeInto } from '@dart-loop/core/loops/edit/typedSteps';
import { findStep } from '@dart-loop/core/loops/model/loop';
import { halfWritten } from './Adder';
import type { Dragged } from './dragging';
import type { SceneActions } from './SceneSheet';
import type { Draft } from './useDraft';

export interface ScriptEdits {
  chosen: ReadonlySet<string>;
  adder: { sceneId: string; index: number } | null;
  /** What has just been done, in words. */
  said: string | null;
  add(at: { sceneId: string; index: number }, written: string): string | null;
  closeAdder(focusStep: boolean): void;
  addScene(): void;
  move(by: -1 | 1): void;
  copy(): Promise<void>;
  cut(): Promise<void>;
  paste(): Promise<void>;
  pasteText(text: string): void;
  remove(): void;
  choose(stepId: string, on?: boolean): void;
  chooseNone(): void;
  drop(what: Dragged, onto: Dragged): void;
  /** Chosen steps, else the one in focus. */
  current(): string[];
}

const KEPT_CLIPPING = 'dart-loop.clipping';

/**
 * Everything that is done with steps and scenes as wholes: adding, choosing, moving, copying; and the actions
 * of their menus.
 */
export function useScriptEdits(
  draft: Draft,
  options: {
    loopId: string;
    types: FieldTypes;
    show: (stepId: string) => void;
    goTo: (sceneId: string) => void;
    seeLanding: (stepId: string) => void;
    rehearseFrom: (sceneId: string) => void;
    focused: () => string | null;
  },
): { edits: ScriptEdits; actions: SceneActions } {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [adder, setAdder] = useState<ScriptEdits['adder']>(() => halfWritten(options.loopId)?.at ?? null);
  const [said, setSaid] = useState<string | null>(null);
  // The newest of everything, for handlers that stay the same.
  const now = useRef({ draft, options, chosen });
  now.current = { draft, options, chosen };

  const edit = useCallback(
    (change: (loop: Loop) => Loop, as?: string) => now.current.draft.edit(change, as),
    [],
  );
  const current = useCallback((): string[] => {
    const { chosen: all, options: own } = now.current;
    if (all.size > 0) return [...all];
    const focused = own.focused();
    return focused ? [focused] : [];
  }, []);
  const show = useCallback((stepId: string | undefined) => stepId && now.current.options.show(stepId), []);
  const after = useCallback((stepId: string): { sceneId: string; index: number } | null => {
    const place = findStep(now.current.draft.loop!, stepId);
    return place && { sceneId: place.scene.id, index: place.stepIndex + 1 };
  }, []);

  const toClipboard = useCallback(async (text: string, words: string) => {
    localStorage.setItem(KEPT_CLIPPING, text);
    await navigator.clipboard?.writeText(text).catch(() => undefined);
    setSaid(words);
  }, []);
  const pasteText = useCallback(
    (text: string) => {
      const loop = now.current.draft.loop!;
      const at =
        (current().at(-1) && after(current().at(-1)!)) ??
        (loop.scenes.at(-1)
          ? { sceneId: loop.scenes.at(-1)!.id, index: loop.scenes.at(-1)!.steps.length }
          : null);
      if (!at) return setSaid('Add a scene first, so that there is somewhere to paste into.');
      const pasted = paste(loop, at, text, now.current.options.types);
      setSaid(
        pasted.problem ??
          (pasted.stepIds.length === 1 ? '1 step pasted.' : `${pasted.stepIds.length} steps pasted.`),
      );
      if (pasted.loop !== loop) edit(() => pasted.loop);
      show(pasted.stepIds[0]);
    },
    [after, current, edit, show],
  );

  const edits = useMemo((): ScriptEdits => {
    const words = (count: number, what: string) =>
      count === 1 ? `1 step ${what}.` : `${count} steps ${what}.`;
    const copy = async () => {
      const ids = current();
      if (ids.length > 0)
        await toClipboard(clipSteps(now.current.draft.loop!, ids), words(ids.length, 'copied'));
    };
    const remove = () => {
      const ids = current();
      if (ids.length === 0) return;
      const loop = now.current.draft.loop!;
      const all = loop.scenes.flatMap((scene) => scene.steps.map((step) => step.id));
      const next =
        all.slice(all.indexOf(ids.at(-1)!) + 1).find((id) => !ids.includes(id)) ??
        all.findLast((id) => !ids.includes(id));
      edit((before) => removeSteps(before, ids));
      setChosen(new Set());
      setSaid(words(ids.length, 'removed'));
      show(next);
    };
    return {
      chosen,
      adder,
      said,
      current,
      add(at, written) {
        const typed = typeInto(now.current.draft.loop!, at, written, now.current.options.types);
        if (typed.loop !== now.current.draft.loop) edit(() => typed.loop);
        setAdder({ sceneId: typed.sceneId, index: typed.index });
        return typed.problem;
      },
      closeAdder(focusStep) {
        const at = adder;
        setAdder(null);
        const scene = now.current.draft.loop!.scenes.find(({ id }) => id === at?.sceneId);
        if (focusStep && at && scene) show(scene.steps[at.index - 1]?.id ?? scene.steps[0]?.id);
      },
      addScene: () => edit((before) => addScene(before, `Scene ${before.scenes.length + 1}`).loop),
      move(by) {
        const ids = current();
        edit((before) => moveSteps(before, ids, by));
        show(ids[0]);
      },
      copy,
      async cut() {
        const ids = current();
        await copy();
        if (ids.length > 0) remove();
      },
      async paste() {
        const text =
          (await navigator.clipboard?.readText().catch(() => '')) ||
          localStorage.getItem(KEPT_CLIPPING) ||
          '';
        if (text.trim() === '') setSaid('There is nothing on the clipboard to paste.');
        else pasteText(text);
      },
      pasteText,
      remove,
      choose: (stepId, on) =>
        setChosen((before) => {
          const next = new Set(before);
          if (on ?? !next.has(stepId)) next.add(stepId);
          else next.delete(stepId);
          return next;
        }),
      chooseNone: () => setChosen(new Set()),
      drop(what, onto) {
        const loop = now.current.draft.loop!;
        if ('scene' in what) {
          const target =
            'scene' in onto ? onto.scene : 'end' in onto ? onto.end : findStep(loop, onto.step)?.scene.id;
          const [from, to] = [what.scene, target].map((id) =>
            loop.scenes.findIndex((scene) => scene.id === id),
          ) as [number, number];
          if (from < 0 || to < 0 || from === to) return;
          return edit((before) => ({
            ...before,
            scenes: before.scenes.toSpliced(from, 1).toSpliced(to, 0, before.scenes[from]!),
          }));
        }
        if (!('step' in what)) return;
        const ids = now.current.chosen.has(what.step) ? [...now.current.chosen] : [what.step];
        const place = 'step' in onto ? findStep(loop, onto.step) : null;
        const at = place
          ? { sceneId: place.scene.id, index: place.stepIndex }
          : 'end' in onto
            ? {
                sceneId: onto.end,
                index: loop.scenes.find((scene) => scene.id === onto.end)?.steps.length ?? 0,
              }
            : 'scene' in onto
              ? { sceneId: onto.scene, index: 0 }
              : null;
        if (at) edit((before) => placeSteps(before, ids, at));
      },
    };
  }, [chosen, adder, said, current, edit, show, toClipboard, pasteText]);

  const latest = useRef(edits);
  latest.current = edits;
  const actions = useMemo(
    (): SceneActions => ({
      edit,
      addChoice: (stepId, label) => edit((before) => addChoice(before, stepId, label)),
      goTo: (sceneId) => now.current.options.goTo(sceneId),
      accept: (finding: Finding, reason) => edit((before) => accept(before, finding, reason)),
      fix: (finding) => edit((before) => makeEdits(before, finding.fix?.edits ?? [])),
      renameScene: (sceneId, name) =>
        edit((before) => renameScene(before, sceneId, name), `scene ${sceneId}`),
      openAdder: setAdder,
      act(stepId, what) {
        const own = latest.current;
        const loop = now.current.draft.loop!;
        // A menu of one of several that are chosen speaks for all of them.
        const ids = own.chosen.has(stepId) ? [...own.chosen] : [stepId];
        const place = findStep(loop, stepId);
        switch (what) {
          case 'add below':
            return place ? setAdder({ sceneId: place.scene.id, index: place.stepIndex + 1 }) : undefined;
          case 'see how it lands':
            return now.current.options.seeLanding(stepId);
          case 'rehearse':
            return place ? now.current.options.rehearseFrom(place.scene.id) : undefined;
          case 'up':
          case 'down':
            edit((before) => moveSteps(before, ids, what === 'up' ? -1 : 1));
            return void show(stepId);
          case 'duplicate': {
            const made = duplicateStep(loop, stepId);
            edit(() => made.loop);
            return void show(made.stepId);
          }
          case 'copy':
          case 'cut':
            void toClipboard(
              clipSteps(loop, ids),
              ids.length === 1
                ? `1 step ${what === 'copy' ? 'copied' : 'cut'}.`
                : `${ids.length} steps ${what === 'copy' ? 'copied' : 'cut'}.`,
            );
            if (what === 'cut') edit((before) => removeSteps(before, ids));
            return;
          case 'paste':
            now.current.options.show(stepId);
            setTimeout(() => void latest.current.paste(), 100);
            return;
          case 'choose':
            return own.choose(stepId);
          case 'remove':
            edit((before) => removeSteps(before, ids));
            setChosen(new Set());
            return setSaid(ids.length === 1 ? '1 step removed.' : `${ids.length} steps removed.`);
        }
      },
      actOnScene(sceneId, what) {
        const loop = now.current.draft.loop!;
        const index = loop.scenes.findIndex((scene) => scene.id === sceneId);
        switch (what) {
          case 'up':
          case 'down':
            return edit((before) => moveScene(before, sceneId, what === 'up' ? -1 : 1));
          case 'add after':
            return edit((before) => addScene(before, `Scene ${before.scenes.length + 1}`, index + 1).loop);
          case 'copy':
          case 'cut':
            void toClipboard(
              clipScenes(loop, [sceneId]),
              `The scene ${loop.scenes[index]?.name ?? ''} is ${what === 'copy' ? 'copied' : 'cut'}.`,
            );
            if (what === 'cut') edit((before) => removeScene(before, sceneId));
            return;
          case 'rehearse':
            return now.current.options.rehearseFrom(sceneId);
          case 'remove':
            return edit((before) => removeScene(before, sceneId));
        }
      },
    }),
    [edit, show, toClipboard],
  );
  return { edits, actions };
}
