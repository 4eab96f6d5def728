import { usePathname } from 'expo-router';
import { View } from 'react-native';
import { Icon } from '../../ui/Icon';
import { Page } from '../../ui/Page';
import { PlaceLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { useSession } from '../session/useSession';
import { useCurrentClient } from './client';
import { accountPlace, agencyPlaces, clientPlaces, type Place } from './places';
import { PlaceMark } from './Rail';

/** A phone's way to every place that has no room at the bottom. */
export function More() {
  const session = useSession().data;
  const path = usePathname();
  const client = useCurrentClient(session);
  if (!session) return null;
  const places = clientPlaces(session, client, path).flatMap((place) =>
    place.key === 'loops' || place.key === 'people' ? place.parts : [place, ...place.parts],
  );
  return (
    <Page title="More" about={client && places.length > 0 ? client.name : undefined}>
      <View>
        {places.map((place) => (
          <PlaceRow key={place.key} place={place} />
        ))}
        {agencyPlaces(session, path).map((place) => (
          <PlaceRow key={place.key} place={place} />
        ))}
        <PlaceRow place={accountPlace(session, path)} />
      </View>
    </Page>
  );
}

function PlaceRow({ place }: { place: Place }) {
  const { colors } = useTheme();
  return (
    <PlaceLink
      href={place.href}
      style={{ borderTopWidth: 1, borderColor: colors.line, borderRadius: 0, paddingVertical: 10 }}
    >
      <View style={{ flexDirection: 'row', gap: 12, alignItems: 'center' }}>
        <Icon name={place.icon} />
        <View style={{ flex: 1 }}>
          <Words kind="strong">{place.words}</Words>
          <Words kind="small">{place.more}</Words>
        </View>
        <PlaceMark place={place} />
      </View>
    </PlaceLink>
  );
}
