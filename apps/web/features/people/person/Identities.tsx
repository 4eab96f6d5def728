import { View } from 'react-native';
import type { PersonPage } from '@dart-loop/contract';
import { ChannelMark } from '../../../ui/parts';
import { PlaceLink } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { whenWords } from '../../../ui/time';
import { Words } from '../../../ui/Words';

/** On which lines a person can be reached, and whether they have opted in or out there. */
export function Identities({ client, identities }: { client: string; identities: PersonPage['identities'] }) {
  const { colors } = useTheme();
  return (
    <View style={{ width: '100%' }}>
      <Words kind="heading">Identities</Words>
      {identities.length === 0 && <Words color="quiet">Not reachable on any line yet.</Words>}
      {identities.map((identity) => (
        <PlaceLink
          key={identity.id}
          href={`/inbox/${client}/${identity.id}`}
          style={{
            borderBottomWidth: 1,
            borderColor: colors.line,
            borderRadius: 0,
            paddingVertical: 8,
          }}
        >
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
            <ChannelMark channel={identity.channel} />
            <Words kind="code" color="ink">
              {identity.handle ?? identity.address}
            </Words>
            <Words kind="small">{`on ${identity.line}, ${whenWords(identity.since)}`}</Words>
            {identity.optedOut && (
              <Words kind="smallStrong" color="ochre">
                ◆ opted out
              </Words>
            )}
            {identity.optedIn && (
              <Words kind="smallStrong" color="teal">
                ● opted in
              </Words>
            )}
            <View style={{ flex: 1 }} />
            <Words kind="smallStrong" color="teal">
              Open conversation
            </Words>
          </View>
        </PlaceLink>
      ))}
    </View>
  );
}
