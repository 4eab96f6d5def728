import { useState } from 'react';
import { View } from 'react-native';
import { hint } from '../../../ui/onWeb';
import type { TimelineEntry } from '@dart-loop/contract';
import { Choice } from '../../../ui/Choice';
import { PlaceLink, QuietButton } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { clock, dateWords, exact } from '../../../ui/time';
import { Words } from '../../../ui/Words';

const KINDS: readonly (readonly [string, string, TimelineEntry['kind'][] | null])[] = [
  ['all', 'Everything', null],
  ['facts', 'Fields', ['fact', 'tag', 'merge', 'task']],
  ['consent', 'Consent', ['consent', 'list']],
  ['loops', 'Loops', ['run', 'conversation', 'booking']],
  ['deliveries', 'Deliveries', ['delivery']],
];
const FIRST = 40;

const dayOf = (iso: string) =>
  dateWords(iso, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
  });

/** Everything that happened with a person, by day, the newest first. */
export function Timeline({
  entries,
  client,
  seesLoops,
}: {
  entries: readonly TimelineEntry[];
  client: string;
  seesLoops: boolean;
}) {
  const { colors } = useTheme();
  const [kind, setKind] = useState('all');
  const [shown, setShown] = useState(FIRST);
  const kinds = KINDS.find(([key]) => key === kind)![2];
  const found = entries.filter((entry) => kinds === null || kinds.includes(entry.kind));
  return (
    <View style={{ gap: 8 }}>
      <Words kind="heading">Activity</Words>
      <View role="radiogroup" aria-label="Show" style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6 }}>
        {KINDS.map(([key, words]) => (
          <Choice key={key} words={words} chosen={kind === key} onChoose={() => setKind(key)} />
        ))}
      </View>
      {found.length === 0 && <Words color="quiet">Nothing of that kind yet.</Words>}
      {found.slice(0, shown).map((entry, index) => {
        const day = dayOf(entry.at);
        const first = index === 0 || dayOf(found[index - 1]!.at) !== day;
        const link =
          entry.link && (seesLoops || entry.link.startsWith('/inbox'))
            ? entry.link.replace(':client', client)
            : entry.by?.loopId && seesLoops
              ? `/${client}/loops/${entry.by.loopId}#${entry.by.stepId ?? ''}`
              : null;
        const line = (
          <View style={{ flexDirection: 'row', gap: 12 }}>
            <Words kind="code" {...hint(exact(entry.at))}>
              {clock(entry.at)}
            </Words>
            <View style={{ flex: 1 }}>
              <Words kind="small" color={entry.kind === 'consent' ? 'teal' : 'ink'}>
                {entry.words}
              </Words>
              {entry.by && <Words kind="small">{`by ${entry.by.words}`}</Words>}
            </View>
          </View>
        );
        return (
          <View key={index}>
            {first && (
              <Words kind="smallStrong" style={{ marginTop: index === 0 ? 0 : 8, marginBottom: 2 }}>
                {day}
              </Words>
            )}
            <View style={{ borderTopWidth: 1, borderColor: colors.line }}>
              {link ? (
                <PlaceLink href={link} style={{ borderRadius: 0, paddingVertical: 6, minHeight: 32 }}>
                  {line}
                </PlaceLink>
              ) : (
                <View style={{ paddingVertical: 6 }}>{line}</View>
              )}
            </View>
          </View>
        );
      })}
      {found.length > shown && (
        <QuietButton
          outlined
          title={`Show ${found.length - shown} older`}
          onPress={() => setShown(found.length)}
        />
      )}
    </View>
  );
}
