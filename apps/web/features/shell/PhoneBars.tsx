import { View } from 'react-native';
import type { ClientSummary, Session } from '@dart-loop/contract';
import { Icon } from '../../ui/Icon';
import { PlaceLink } from '../../ui/press';
import { FONTS, useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ClientSwitch } from './ClientSwitch';
import type { Place } from './places';

/** A phone's top: the client, which can be changed. */
export function ClientBar({
  session,
  client,
  switching,
  setSwitching,
}: {
  session: Session;
  client: ClientSummary;
  switching: boolean;
  setSwitching: (open: boolean) => void;
}) {
  const { colors } = useTheme();
  return (
    <View style={{ paddingHorizontal: 16, borderBottomWidth: 1, borderColor: colors.line }}>
      <ClientSwitch session={session} client={client} open={switching} setOpen={setSwitching} />
    </View>
  );
}

/** A phone's bottom: the five places. */
export function PlaceBar({ places }: { places: Place[] }) {
  const { colors } = useTheme();
  return (
    <View
      role="navigation"
      aria-label="Places"
      style={{
        flexDirection: 'row',
        borderTopWidth: 1,
        borderColor: colors.line,
        backgroundColor: colors.paper,
        paddingBottom: 4,
      }}
    >
      {places.map((place) => (
        <View key={place.key} style={{ flex: 1 }}>
          <PlaceLink
            href={place.href}
            current={place.current}
            style={{ minHeight: 52, alignItems: 'center', gap: 2 }}
          >
            <Icon name={place.icon} color={place.current ? 'ink' : 'quiet'} />
            <Words
              color={place.current ? 'ink' : 'quiet'}
              style={{
                fontFamily: place.current ? FONTS.bold : FONTS.text,
                fontSize: 13,
                lineHeight: 16,
              }}
            >
              {place.words}
              {place.count > 0 && (
                <Words kind="code" color="ochre" style={{ lineHeight: 16 }}>{` ${place.count}`}</Words>
              )}
            </Words>
          </PlaceLink>
        </View>
      ))}
    </View>
  );
}
