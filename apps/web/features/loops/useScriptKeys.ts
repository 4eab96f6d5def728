import { useRef } from 'react';
import { useWindowEvent } from '../../ui/useWindowEvent';
import type { SceneActions } from './SceneSheet';
import type { Draft } from './useDraft';
import type { ScriptEdits } from './useScriptEdits';
import type { Face } from './faces';

/** What can be done by key, for the sheet that tells them. */
export const KEYS: [string, string][] = [
  ['j, k', 'the next line, the line before'],
  ['Enter', 'edit the line'],
  ['Esc, Ctrl+Enter', 'done with editing'],
  ['a', 'add below: write it, Enter, and the next'],
  ['m', 'the menu of the line'],
  ['x', 'choose the line, to do something with several'],
  ['Shift+j, Shift+k', 'choose on the way'],
  ['Alt+↑, Alt+↓', 'move the line, or the chosen ones'],
  ['Alt+Shift+↑, Alt+Shift+↓', 'move the scene'],
  ['Ctrl+Shift+C, Ctrl+Shift+X', 'copy or cut the scene'],
  ['Ctrl+C, Ctrl+X, Ctrl+V', 'copy, cut and paste; pasted text becomes steps'],
  ['Delete', 'remove'],
  ['Ctrl+Z, Ctrl+Shift+Z', 'undo, redo'],
  ['Ctrl+F', 'find and replace in the loop'],
  ['r', 'rehearse from here'],
  ['c', 'checks'],
  ['l', 'as it lands'],
  ['p', 'publish'],
  ['g, then t i l p m', 'Today, Inbox, Loops, People, More'],
  ['?', 'this sheet'],
];

/** The keys of the script: everything on the page without the pointer. */
export function useScriptKeys(
  draft: Draft,
  edits: ScriptEdits,
  actions: SceneActions,
  to: { face: (face: Face) => void; keys: () => void; find: () => void; show: (stepId: string) => void },
) {
  const afterG = useRef(0);
  useWindowEvent('keydown', (event) => {
    const target = event.target as HTMLElement;
    const typing = /^(input|textarea|select)$/i.test(target.tagName);
    const command = event.ctrlKey || event.metaKey;
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if (command && key === 'z' && !typing) {
      event.preventDefault();
      if (event.shiftKey) draft.redo();
      else draft.undo();
      return;
    }
    if (document.querySelector('[role="dialog"]')) return;
    if (command && key === 'f' && !typing) {
      event.preventDefault();
      return to.find();
    }
    if (typing) return;
    const lines = [...document.querySelectorAll<HTMLElement>('[data-step]')];
    const here = target.closest<HTMLElement>('[data-step]');
    const stepId = here?.dataset.step ?? null;
    const loop = draft.loop;
    if (!loop) return;
    const sceneId = target.closest<HTMLElement>('[data-scene]')?.dataset.scene ?? null;
    if (command && event.shiftKey && sceneId && (key === 'c' || key === 'x')) {
      event.preventDefault();
      return actions.actOnScene(sceneId, key === 'c' ? 'copy' : 'cut');
    }
    if (command) {
      const selecting = (window.getSelection()?.toString() ?? '') !== '';
      if (key === 'c' && !selecting && edits.current().length > 0) void edits.copy();
      else if (key === 'x' && !selecting && edits.current().length > 0) void edits.cut();
      else return;
      event.preventDefault();
      return;
    }
    if (event.altKey) {
      if (event.shiftKey && sceneId && (key === 'ArrowUp' || key === 'ArrowDown')) {
        event.preventDefault();
        actions.actOnScene(sceneId, key === 'ArrowUp' ? 'up' : 'down');
        if (stepId) to.show(stepId);
      } else if (stepId && (key === 'ArrowUp' || key === 'ArrowDown')) {
        event.preventDefault();
        edits.move(key === 'ArrowUp' ? -1 : 1);
        to.show(stepId);
      }
      return;
    }
    // A letter after g belongs to the places.
    if (key === 'g') afterG.current = Date.now();
    else if (Date.now() - afterG.current < 1_200) {
      afterG.current = 0;
      return;
    }
    if (event.key === '?') return to.keys();
    if (key === 'j' || key === 'k') {
      const at = here ? lines.indexOf(here) : key === 'j' ? -1 : lines.length;
      const next = lines[Math.max(0, Math.min(lines.length - 1, at + (key === 'j' ? 1 : -1)))];
      if (event.shiftKey) {
        if (stepId) edits.choose(stepId, true);
        if (next?.dataset.step) edits.choose(next.dataset.step, true);
      }
      next?.focus();
    } else if (key === 'Enter' && here === target && stepId) {
      event.preventDefault();
      (
        here.querySelector<HTMLElement>('[data-edit]') ??
        here.querySelector<HTMLElement>('[role="button"]:not([aria-roledescription])')
      )?.click();
    } else if (key === 'm' && here === target)
      here?.querySelector<HTMLElement>('[aria-label^="More for this"]')?.click();
    else if (key === 'a') {
      event.preventDefault();
      if (stepId) actions.act(stepId, 'add below');
      else if (loop.scenes.at(-1))
        actions.openAdder({ sceneId: loop.scenes.at(-1)!.id, index: loop.scenes.at(-1)!.steps.length });
    } else if (key === 'x' && stepId) edits.choose(stepId);
    else if (key === 'Escape') edits.chooseNone();
    else if (
      (key === 'Delete' || key === 'Backspace') &&
      (here === target || edits.chosen.size > 0) &&
      edits.current().length > 0
    ) {
      event.preventDefault();
      edits.remove();
    } else if (key === 'r') {
      event.preventDefault();
      if (stepId) actions.act(stepId, 'rehearse');
      else if (loop.scenes[0]) actions.actOnScene(loop.scenes[0].id, 'rehearse');
    } else if (key === 'c') to.face('checks');
    else if (key === 'l') {
      if (stepId) actions.act(stepId, 'see how it lands');
      else to.face('lands');
    } else if (key === 'p')
      [...document.querySelectorAll<HTMLElement>('[role="button"]')]
        .find((each) => /^Publish( |$)/.test(each.getAttribute('aria-label') ?? ''))
        ?.click();
  });
  useWindowEvent('paste', (event) => {
    const target = event.target as HTMLElement;
    if (/^(input|textarea|select)$/i.test(target.tagName) || document.querySelector('[role="dialog"]'))
      return;
    const text = event.clipboardData?.getData('text/plain') ?? '';
    if (text.trim() === '' || !draft.loop) return;
    event.preventDefault();
    edits.pasteText(text);
  });
}

/** The step that a line in the document's focus is about. */
export const focusedStep = (): string | null =>
  (document.activeElement as HTMLElement | null)?.closest<HTMLElement>('[data-step]')?.dataset.step ?? null;
