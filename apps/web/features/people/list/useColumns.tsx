import { useMemo, useState } from 'react';
import { View } from 'react-native';
import type { PeopleVocabulary } from '@dart-loop/contract';
import { Dialog } from '../../../ui/Menu';
import { TickRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';

const KEPT = 'dart-loop.people-columns';
const MOST = 6;

/** Which fields the list shows for a client, kept on this device. */
export function useColumns(client: string) {
  const [keys, setKeys] = useState<string[]>(() => {
    const kept = typeof localStorage === 'undefined' ? null : localStorage.getItem(`${KEPT}.${client}`);
    return kept ? (JSON.parse(kept) as string[]) : [];
  });
  const show = (next: string[]) => {
    setKeys(next);
    localStorage.setItem(`${KEPT}.${client}`, JSON.stringify(next));
  };
  return { keys, show };
}

/** The columns with their names, as the client calls its fields. */
export function useNamedColumns(keys: readonly string[], known: PeopleVocabulary | undefined) {
  return useMemo(
    () => ({
      keys,
      name: (key: string) =>
        known?.fields.find((field) => field.key === key)?.name ?? key.replaceAll('_', ' '),
    }),
    [keys, known],
  );
}

export function ColumnsDialog({
  columns: { keys, show },
  known,
  open,
  onClose,
}: {
  columns: ReturnType<typeof useColumns>;
  known: PeopleVocabulary | undefined;
  open: boolean;
  onClose: () => void;
}) {
  return (
    <Dialog title="Columns" open={open} onClose={onClose}>
      <View style={{ padding: 12 }}>
        <Words kind="small">{`Up to ${MOST}. On a phone they are shown below the name.`}</Words>
        {(known?.fields ?? []).map(({ key, name }) => (
          <TickRow
            key={key}
            label={name}
            on={keys.includes(key)}
            onChange={(on) => show(on ? [...keys, key].slice(0, MOST) : keys.filter((each) => each !== key))}
          />
        ))}
      </View>
    </Dialog>
  );
}
