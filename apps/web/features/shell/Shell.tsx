import { usePathname, type Href, router } from 'expo-router';
import { useRef, useState, type ReactNode } from 'react';
import { View } from 'react-native';
import type { Session } from '@dart-loop/contract';
import { useTheme } from '../../ui/theme';
import { useWindowEvent } from '../../ui/useWindowEvent';
import { useCurrentClient } from './client';
import { ClientBar, PlaceBar } from './PhoneBars';
import { PLAIN, accountPlace, agencyPlaces, clientPlaces, isWithin, workPlaces, type Place } from './places';
import { Rail } from './Rail';

/** How long `g` waits for the letter of a place, in ms. */
const PATIENCE_MS = 1_200;

/** The frame around every screen: a rail with all places when wide, five of them at the bottom on a phone. */
export function Shell({ session, children }: { session: Session; children: ReactNode }) {
  const { colors, wide } = useTheme();
  const path = usePathname();
  const client = useCurrentClient(session);
  const [switching, setSwitching] = useState(false);
  const work = workPlaces(session, path);
  const ofClient = clientPlaces(session, client, path);
  const ofAgency = agencyPlaces(session, path);
  const account = accountPlace(session, path);
  const [first, others] = [
    ofClient.filter(({ key }) => key === 'loops' || key === 'people'),
    ofClient.filter(({ key }) => key !== 'loops' && key !== 'people'),
  ];
  const more: Place = {
    ...PLAIN,
    key: 'more',
    words: 'More',
    more: '',
    icon: 'more',
    href: '/more',
    current: path === '/more' || account.current || [...others, ...ofAgency].some(isWithin),
  };
  const five = [...work, ...first.map((place) => ({ ...place, current: isWithin(place) })), more];
  useShellKeys(wide ? [...work, ...ofClient, ...ofAgency] : five, () => setSwitching(true));
  if (wide)
    return (
      <View style={{ flex: 1, flexDirection: 'row', backgroundColor: colors.paper }}>
        <Rail {...{ session, client, work, ofClient, ofAgency, account, switching, setSwitching }} />
        <View role="main" style={{ flex: 1, minWidth: 0 }}>
          {children}
        </View>
      </View>
    );
  // A conversation and a loop use the whole height; what belongs to all clients has no client.
  const namesClient = session.clients.length > 1 && NAMES_CLIENT.test(path) && client;
  return (
    <View style={{ flex: 1, backgroundColor: colors.paper }}>
      {namesClient && <ClientBar {...{ session, client, switching, setSwitching }} />}
      <View role="main" style={{ flex: 1, minHeight: 0 }}>
        {children}
      </View>
      <PlaceBar places={five} />
    </View>
  );
}

/** Where a client's place is looked at as a whole: its page, and the pages beside it in its tabs. */
const NAMES_CLIENT = /^\/(?!inbox\/)[^/]+\/(?:[^/]+|answers\/(?:sheet|try))$/;

/** `g` then the first letter of a place goes there; `g` then `c` chooses the client. */
function useShellKeys(places: Place[], chooseClient: () => void) {
  // Kept across what comes in between: a page that changes meanwhile does not forget that g was pressed.
  const armed = useRef(0);
  useWindowEvent('keydown', (event) => {
    const target = event.target as HTMLElement;
    if (event.ctrlKey || event.metaKey || event.altKey || /^(input|textarea|select)$/i.test(target.tagName))
      return;
    if (event.key === 'g') armed.current = Date.now();
    else if (Date.now() - armed.current < PATIENCE_MS) {
      armed.current = 0;
      if (event.key === 'c') {
        // The letter is not typed into the field that comes.
        event.preventDefault();
        chooseClient();
        return;
      }
      const place = places.find((each) => keyOf(each) === event.key);
      if (place) router.push(place.href as Href);
    }
  });
}

/** Lines and Loops begin with the same letter, and so do Audit and Answers. */
const LETTERS: Readonly<Record<string, string>> = { lines: 'n', audit: 'u' };
const keyOf = ({ key }: Place): string => LETTERS[key] ?? key.charAt(0);
