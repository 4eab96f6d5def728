import { createContext, useContext, useMemo, useRef, useState } from 'react';
import { View } from 'react-native';
import type { LoopPage } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import { storedText, writtenMerge, writtenText, type MergeName } from '@dart-loop/core/language/writtenMerge';
import { mergeNamesOf } from '@dart-loop/core/loops/edit/mergeNames';
import { Menu } from '../../ui/Menu';
import { TextRow } from '../../ui/rows';
import { Words } from '../../ui/Words';

/** What the texts of the loop in hand can merge. */
export const MergeNames = createContext<readonly MergeName[]>([]);

/** What a loop can merge, made anew only when a name changes. */
export function useMergeNames(
  loop: Loop,
  page: Pick<LoopPage, 'fields' | 'brief' | 'files'>,
): readonly MergeName[] {
  const names = mergeNamesOf(loop, page.fields, page.brief, page.files);
  const key = JSON.stringify(names);
  // eslint-disable-next-line react-hooks/exhaustive-deps -- the names are the key
  return useMemo(() => names, [key]);
}

/** A text as it is written, with what is merged in brackets, and back to how it is stored. */
export function useMerging(value: string) {
  const names = useContext(MergeNames);
  const [before, setBefore] = useState(value);
  return {
    written: (stored: string) => writtenText(stored, names),
    stored: (written: string) => storedText(written, names, before),
    /** From here on it is written on this text. */
    begin: setBefore,
  };
}

/** Chooses what to merge; tells it as it is written. */
export function MergeMenu({
  onChoose,
  onOpenChange,
}: {
  onChoose: (written: string) => void;
  onOpenChange?: (open: boolean) => void;
}) {
  const names = useContext(MergeNames);
  return (
    <Menu
      compact
      label="Insert a merge field"
      title="Merge fields"
      onOpenChange={onOpenChange}
      items={names.map(({ path, words }) => ({
        key: path,
        words,
        onChoose: () =>
          onChoose(path === 'person.first_name' ? writtenMerge(words, 'there') : writtenMerge(words)),
      }))}
    >
      <Words kind="smallStrong" color="teal">
        + merge field
      </Words>
    </Menu>
  );
}

/** A row of a form whose text may hold merge fields. */
export function MergedRow({
  value,
  placeholder,
  onChange,
  ...rest
}: Parameters<typeof TextRow>[0] & { value: string }) {
  const { written, stored } = useMerging(value);
  const caret = useRef<number | null>(null);
  const shown = written(value);
  return (
    <View>
      <TextRow
        {...rest}
        placeholder={placeholder && written(placeholder)}
        value={shown}
        onChange={(typed) => onChange(stored(typed))}
        onSelectionChange={(event) => (caret.current = event.nativeEvent.selection.end)}
      />
      <View style={{ alignItems: 'flex-start' }}>
        <MergeMenu
          onChoose={(field) => {
            const at = caret.current ?? shown.length;
            onChange(stored(shown.slice(0, at) + field + shown.slice(at)));
          }}
        />
      </View>
    </View>
  );
}
