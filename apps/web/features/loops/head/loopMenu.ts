import type { LoopPage } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import type { MenuItem } from '../../../ui/Menu';

/** What opens above the loop. */
export type LoopSheet = 'publish' | 'versions' | 'ways in' | 'list' | 'pause' | 'stop';

/** What can be done with a loop as a whole, as far as its state allows it. */
export function loopMenu(
  page: LoopPage,
  loop: Loop,
  does: {
    open: (sheet: LoopSheet) => void;
    act: (what: string, body: object, words: string) => void;
    duplicate: () => void;
    download: (as: 'yaml' | 'json') => void;
    find: () => void;
    keys: () => void;
  },
): MenuItem[] {
  const { state } = page;
  const items: (MenuItem | false)[] = [
    Boolean(page.live) && {
      key: 'ways',
      words: 'Ways in',
      more: 'keywords, links and QR codes to share',
      onChoose: () => does.open('ways in'),
    },
    Boolean(page.live) && {
      key: 'versions',
      words: 'Versions and history',
      more: 'what changed, by whom and when; go back to a version',
      onChoose: () => does.open('versions'),
    },
    {
      key: 'list',
      words: 'List it writes to',
      more: loop.list ?? 'none: it writes to whoever is in it',
      onChoose: () => does.open('list'),
    },
    { key: 'find', words: 'Find and replace', more: 'Ctrl+F', onChoose: does.find },
    state === 'live' && {
      key: 'pause',
      words: 'Pause',
      more: 'nobody new starts; people in it continue',
      onChoose: () => does.open('pause'),
    },
    (state === 'paused' || state === 'stopped') && {
      key: 'resume',
      words: 'Resume',
      onChoose: () => does.act('state', { state: 'live' }, 'The loop is live again.'),
    },
    (state === 'live' || state === 'paused') && {
      key: 'stop',
      words: 'Stop',
      more: 'nobody starts, and people in it get no further messages',
      tone: 'red',
      onChoose: () => does.open('stop'),
    },
    { key: 'twice', words: 'Duplicate', onChoose: does.duplicate },
    {
      key: 'yaml',
      words: 'Export as YAML',
      more: 'a file that people can read and edit',
      onChoose: () => does.download('yaml'),
    },
    {
      key: 'json',
      words: 'Export as JSON',
      more: 'a file for other programs',
      onChoose: () => does.download('json'),
    },
    (state === 'stopped' || state === 'never published') && {
      key: 'archive',
      words: 'Archive',
      more: 'hidden from the list; can be restored at any time',
      onChoose: () => does.act('archive', { archived: true }, 'The loop is archived.'),
    },
    state === 'archived' && {
      key: 'back',
      words: 'Restore from the archive',
      onChoose: () => does.act('archive', { archived: false }, 'The loop is restored.'),
    },
    { key: 'keys', words: 'Keyboard shortcuts', more: '?', onChoose: does.keys },
  ];
  return items.filter((item) => item !== false);
}
