import type { ReactNode } from 'react';
import { View } from 'react-native';
import type { By } from '@dart-loop/contract';
import { Inset } from '../../../ui/parts';
import { QuietButton } from '../../../ui/press';
import { Words } from '../../../ui/Words';

/** A heading with a button that adds one more. */
export function Heading({ title, add, label }: { title: string; add?: () => void; label: string }) {
  return (
    <View style={{ flexDirection: 'row', alignItems: 'center', gap: 12 }}>
      <Words kind="heading">{title}</Words>
      {add && <QuietButton title="Add" tone="teal" label={label} onPress={add} />}
    </View>
  );
}

/** Tags or lists, each with who added it. */
export function NamedList({
  title,
  label,
  rows,
  source,
  add,
  remove,
}: {
  title: string;
  label: string;
  rows: { name: string; at: string | null; by: By | null }[];
  source: (by: By | null, at: string | null) => ReactNode;
  add?: () => void;
  remove?: (name: string) => void;
}) {
  return (
    <View style={{ gap: 8, width: '100%' }}>
      <Heading title={title} add={add} label={label} />
      {rows.length === 0 && <Words color="quiet">None.</Words>}
      {rows.map(({ name, at, by }) => (
        <View
          key={name}
          style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 10, alignItems: 'center' }}
        >
          <Inset words={name} />
          {source(by, at)}
          <View style={{ flex: 1 }} />
          {remove && (
            <QuietButton title="Remove" tone="quiet" label={`Remove ${name}`} onPress={() => remove(name)} />
          )}
        </View>
      ))}
    </View>
  );
}
