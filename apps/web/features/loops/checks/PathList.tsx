import { useMemo, useState } from 'react';
import { Pressable, View } from 'react-native';
import { CHANNEL_NAMES } from '@dart-loop/core/channels/names';
import type { Examined } from '@dart-loop/core/loops/check/examine';
import { lengthWords, pathWords } from '@dart-loop/core/loops/check/pathWords';
import { isPaid, priceWords } from '@dart-loop/core/meter/prices';
import { fold } from '@dart-loop/core/language/fold';
import { whenHovered } from '../../../ui/hover';
import { Field } from '../../../ui/Field';
import { TickRow } from '../../../ui/rows';
import { QuietButton } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';

const SHOWN = 40;

/**
 * Every way through the loop: what is decided on it, how it ends, what it takes and costs, and whether a take
 * covers it.
 */
export function PathList({ paths, onChoose }: { paths: Examined['paths']; onChoose: (at: number) => void }) {
  const { colors } = useTheme();
  const [query, setQuery] = useState('');
  const [bare, setBare] = useState(false);
  const [shown, setShown] = useState(SHOWN);
  const rows = useMemo(() => paths.map((path, at) => ({ path, at, words: pathWords(path) })), [paths]);
  const found = rows.filter(
    ({ path, words }) => (!bare || path.takes.length === 0) && fold(words).includes(fold(query)),
  );
  return (
    <View style={{ gap: 8 }}>
      <Field label="Only those with" placeholder="no reply" value={query} onChangeText={setQuery} />
      <TickRow label="Only those without a take" on={bare} onChange={setBare} />
      {found.length === 0 && <Words color="quiet">No path is like that.</Words>}
      <View role="list" aria-label="Paths">
        {found.slice(0, shown).map(({ path, at, words }) => {
          const most = Math.max(0, ...path.cost.map(({ messages }) => messages));
          const prices = path.cost
            .filter(({ channel }) => isPaid(channel))
            .map(({ channel, price }) => `${CHANNEL_NAMES[channel].mark} ${priceWords(price)}`);
          return (
            <View key={at} role="listitem">
              <Pressable
                role="button"
                onPress={() => onChoose(at)}
                style={whenHovered((hovered) => ({
                  borderTopWidth: 1,
                  borderColor: colors.line,
                  paddingVertical: 8,
                  minHeight: 44,
                  backgroundColor: hovered ? colors.inset : undefined,
                }))}
              >
                <Words kind="small" color="ink" numberOfLines={4}>
                  {words}
                </Words>
                <Words kind="code">
                  {[
                    most === 1 ? '1 message' : `${most} messages`,
                    lengthWords(path.ms),
                    ...prices,
                    path.takes.length > 0
                      ? `● ${path.takes.length === 1 ? 'a take' : `${path.takes.length} takes`}`
                      : '○ no take',
                  ].join(' · ')}
                </Words>
              </Pressable>
            </View>
          );
        })}
      </View>
      {found.length > shown && (
        <QuietButton
          title={`Show ${Math.min(SHOWN, found.length - shown)} more of ${found.length}`}
          onPress={() => setShown(shown + SHOWN)}
        />
      )}
    </View>
  );
}
