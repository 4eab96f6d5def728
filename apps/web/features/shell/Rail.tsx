import { ScrollView, View } from 'react-native';
import type { ClientSummary, Session } from '@dart-loop/contract';
import { Icon } from '../../ui/Icon';
import { Wordmark } from '../../ui/parts';
import { PlaceLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ClientSwitch } from './ClientSwitch';
import { isWithin, type Place } from './places';

/** All places in their groups, at the left of a wide screen. */
export function Rail({
  session,
  client,
  work,
  ofClient,
  ofAgency,
  account,
  switching,
  setSwitching,
}: {
  session: Session;
  client: ClientSummary | undefined;
  work: Place[];
  ofClient: Place[];
  ofAgency: Place[];
  account: Place;
  switching: boolean;
  setSwitching: (open: boolean) => void;
}) {
  const { colors } = useTheme();
  return (
    <View
      role="navigation"
      aria-label="Places"
      style={{ width: 212, borderRightWidth: 1, borderColor: colors.line, paddingTop: 16 }}
    >
      <ScrollView contentContainerStyle={{ paddingHorizontal: 10, paddingBottom: 12, gap: 2 }}>
        <PlaceLink href="/" style={{ paddingHorizontal: 10, minHeight: 40 }} label="Dart Loop, to Today">
          <Wordmark />
        </PlaceLink>
        {work.map((place) => (
          <RailPlace key={place.key} place={place} />
        ))}
        {client && (
          <View style={{ marginTop: 16 }}>
            {session.clients.length > 1 ? (
              <ClientSwitch
                session={session}
                client={client}
                open={switching}
                setOpen={setSwitching}
                style={{ paddingHorizontal: 10 }}
              />
            ) : (
              <Words kind="smallStrong" style={{ paddingHorizontal: 10, paddingVertical: 8 }}>
                {client.name}
              </Words>
            )}
          </View>
        )}
        {ofClient.map((place) => (
          <View key={place.key}>
            <RailPlace place={place} />
            {isWithin(place) && place.parts.map((part) => <RailPlace key={part.key} place={part} isPart />)}
          </View>
        ))}
        <Words
          kind="small"
          numberOfLines={2}
          style={{ marginTop: 16, paddingHorizontal: 10, paddingVertical: 6 }}
        >
          {session.account.agency}
        </Words>
        {ofAgency.map((place) => (
          <RailPlace key={place.key} place={place} />
        ))}
        <RailPlace place={account} />
      </ScrollView>
    </View>
  );
}

function RailPlace({ place, isPart }: { place: Place; isPart?: boolean }) {
  const { colors } = useTheme();
  return (
    <PlaceLink
      href={place.href}
      current={place.current}
      style={{
        minHeight: 36,
        paddingHorizontal: 10,
        backgroundColor: place.current ? colors.inset : undefined,
      }}
    >
      <View style={{ flexDirection: 'row', gap: 10, alignItems: 'center', paddingLeft: isPart ? 30 : 0 }}>
        {!isPart && <Icon name={place.icon} size={18} />}
        <Words
          kind={place.current ? 'smallStrong' : 'small'}
          color="ink"
          numberOfLines={2}
          style={{ flex: 1, fontSize: isPart ? 14 : 15 }}
        >
          {place.words}
        </Words>
        <PlaceMark place={place} />
      </View>
    </PlaceLink>
  );
}

/** How many things wait there, or that something fails; with words for those who hear it. */
export function PlaceMark({ place }: { place: Place }) {
  if (place.failing)
    return (
      <Words role="img" aria-label="something is failing" color="red" style={{ fontSize: 13 }}>
        ▲
      </Words>
    );
  return place.count > 0 ? (
    <Words kind="code" color="ochre">
      {String(place.count)}
    </Words>
  ) : null;
}
