import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { ConversationPage, DraftsPage } from '@dart-loop/contract';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** What the client's sources say to what the person wrote last: taken over into the field, or put away. */
export function Drafts({
  client,
  data,
  onUse,
}: {
  client: string;
  data: ConversationPage;
  onUse: (text: string) => void;
}) {
  const { colors } = useTheme();
  const last = data.entries.findLast(({ kind }) => kind !== 'stage');
  const waits = last?.kind === 'in' && (data.held !== null || data.shelf === 'waiting on us');
  const [away, setAway] = useState<string | null>(null);
  const { data: page } = useSWR<DraftsPage, Error>(
    waits ? `/clients/${client}/conversations/${data.id}/drafts?after=${last.seq}` : null,
  );
  const drafts = page?.drafts ?? [];
  if (!waits || drafts.length === 0 || away === last.id) return null;
  return (
    <View
      role="group"
      aria-label="From the sources"
      style={{ borderLeftWidth: 2, borderColor: colors.teal, paddingLeft: 10, gap: 2 }}
    >
      <View style={{ flexDirection: 'row', alignItems: 'center' }}>
        <View style={{ flex: 1 }}>
          <Words kind="smallStrong">
            {drafts[0]!.isSure ? 'The sources answer it' : 'The sources come near'}
          </Words>
        </View>
        <QuietButton title="Put away" onPress={() => setAway(last.id)} />
      </View>
      {drafts.map(({ text, from, isSure }) => (
        <View key={text} style={{ flexDirection: 'row', alignItems: 'center', gap: 8 }}>
          <View style={{ flex: 1, minWidth: 0 }}>
            <Words numberOfLines={isSure ? 3 : 1}>{text}</Words>
            <Words kind="small" numberOfLines={1}>
              {from}
            </Words>
          </View>
          <QuietButton title="Use" tone="teal" label={`Use: ${from}`} onPress={() => onUse(text)} />
        </View>
      ))}
    </View>
  );
}
