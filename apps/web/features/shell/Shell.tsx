import { usePathname, type Href, router } from 'expo-router';
import { useRef, type ReactNode } from 'react';
import { ScrollView, View } from 'react-native';
import type { ClientSummary, Session } from '@dart-loop/contract';
import { may } from '@dart-loop/contract/roles';
import { Menu } from '../../ui/Menu';
import { PlaceLink } from '../../ui/press';
import { Wordmark } from '../../ui/parts';
import { FONTS, useTheme } from '../../ui/theme';
import { useWindowEvent } from '../../ui/useWindowEvent';
import { Words } from '../../ui/Words';
import { useCurrentClient } from './client';

interface Place {
  key: string;
  words: string;
  href: string;
  count: number;
  current: boolean;
}

/** The parts of a client that stand under More. */
const UNDER_MORE = [
  'lines',
  'test-phone',
  'fields',
  'lists',
  'sending',
  'webhooks',
  'sync',
  'bookings',
  'api',
];

/** The five places, as far as the role reaches them. */
function placesOf(session: Session, client: ClientSummary | undefined, path: string): Place[] {
  const role = session.account.role;
  const waiting = session.clients.reduce((sum, each) => sum + each.waiting, 0);
  const inClient = (part: string) =>
    new RegExp(`^/[^/]+/${part}(/|$)`).test(path) && !path.startsWith('/inbox');
  const more = path === '/more' || UNDER_MORE.some(inClient);
  return [
    { key: 'today', words: 'Today', href: '/', count: 0, current: path === '/' },
    { key: 'inbox', words: 'Inbox', href: '/inbox', count: waiting, current: path.startsWith('/inbox') },
    ...(client && may(role, 'see loops')
      ? [
          {
            key: 'loops',
            words: 'Loops',
            href: `/${client.slug}/loops`,
            count: 0,
            current: inClient('loops'),
          },
        ]
      : []),
    ...(client && may(role, 'see people')
      ? [
          {
            key: 'people',
            words: 'People',
            href: `/${client.slug}/people`,
            count: 0,
            current: inClient('people') || inClient('import'),
          },
        ]
      : []),
    { key: 'more', words: 'More', href: '/more', count: 0, current: more },
  ];
}

/** Where in the client one stands, so that switching the client stays there. */
function sameplace(path: string, slug: string): string {
  const part = new RegExp(`^/(?!inbox)[^/]+/(loops|people|import|${UNDER_MORE.join('|')})(/|$)`).exec(
    path,
  )?.[1];
  return part ? `/${slug}/${part}` : path.startsWith('/inbox') ? `/inbox?client=${slug}` : `/${slug}/loops`;
}

/** The frame around every screen: a rail on the left when wide, five places at the bottom on a phone. */
export function Shell({ session, children }: { session: Session; children: ReactNode }) {
  const { colors, wide } = useTheme();
  const path = usePathname();
  const client = useCurrentClient(session);
  const places = placesOf(session, client, path);
  usePlaceKeys(places);
  const clientHref = (slug: string) =>
    may(session.account.role, 'see loops') ? sameplace(path, slug) : `/inbox?client=${slug}`;

  if (wide)
    return (
      <View style={{ flex: 1, flexDirection: 'row', backgroundColor: colors.paper }}>
        <View
          role="navigation"
          aria-label="Places"
          style={{ width: 188, borderRightWidth: 1, borderColor: colors.line, padding: 14, paddingTop: 18 }}
        >
          <PlaceLink href="/" style={{ paddingHorizontal: 8 }} label="Dart Loop, to Today">
            <Wordmark />
          </PlaceLink>
          <View style={{ marginTop: 18, gap: 2 }}>
            {places.map((place) => (
              <PlaceLink
                key={place.key}
                href={place.href}
                current={place.current}
                style={{ paddingHorizontal: 8, backgroundColor: place.current ? colors.inset : undefined }}
              >
                <View style={{ flexDirection: 'row', gap: 6, alignItems: 'baseline' }}>
                  <Words kind={place.current ? 'strong' : 'text'}>{place.words}</Words>
                  {place.count > 0 && (
                    <Words kind="code" color="ochre">
                      {String(place.count)}
                    </Words>
                  )}
                </View>
              </PlaceLink>
            ))}
          </View>
          <Words kind="small" style={{ marginTop: 24, paddingHorizontal: 8, marginBottom: 4 }}>
            Clients
          </Words>
          <ScrollView>
            {session.clients.map((each) => (
              <PlaceLink
                key={each.slug}
                href={clientHref(each.slug)}
                style={{
                  paddingHorizontal: 8,
                  backgroundColor: each.slug === client?.slug ? colors.inset : undefined,
                }}
                label={clientLabel(each)}
              >
                <View style={{ flexDirection: 'row', gap: 6, alignItems: 'baseline' }}>
                  <Words
                    kind={each.slug === client?.slug ? 'smallStrong' : 'small'}
                    color="ink"
                    style={{ flexShrink: 1 }}
                    numberOfLines={2}
                  >
                    {each.name}
                  </Words>
                  <ClientState client={each} />
                </View>
              </PlaceLink>
            ))}
          </ScrollView>
        </View>
        <View role="main" style={{ flex: 1, minWidth: 0 }}>
          {children}
        </View>
      </View>
    );

  return (
    <View style={{ flex: 1, backgroundColor: colors.paper }}>
      {session.clients.length > 1 &&
        client &&
        /^\/(?!inbox\/)/.test(path) &&
        path !== '/' &&
        path !== '/more' && (
          <View style={{ paddingHorizontal: 16, borderBottomWidth: 1, borderColor: colors.line }}>
            <Menu
              label={`Client: ${client.name}. Change`}
              title="Clients"
              items={session.clients.map((each) => ({
                key: each.slug,
                words: each.name,
                more: clientWords(each),
                chosen: each.slug === client.slug,
                onChoose: () => router.push(clientHref(each.slug) as Href),
              }))}
            >
              <Words kind="smallStrong">{client.name} ▾</Words>
            </Menu>
          </View>
        )}
      <View role="main" style={{ flex: 1, minHeight: 0 }}>
        {children}
      </View>
      <View
        role="navigation"
        aria-label="Places"
        style={{ flexDirection: 'row', borderTopWidth: 1, borderColor: colors.line, paddingBottom: 4 }}
      >
        {places.map((place) => (
          <View key={place.key} style={{ flex: 1 }}>
            <PlaceLink
              href={place.href}
              current={place.current}
              style={{ minHeight: 52, alignItems: 'center' }}
            >
              <Words
                style={{
                  fontFamily: place.current ? FONTS.bold : FONTS.text,
                  fontSize: 15,
                  textDecorationLine: place.current ? 'underline' : 'none',
                }}
              >
                {place.words}
                {place.count > 0 && <Words kind="code" color="ochre">{` ${place.count}`}</Words>}
              </Words>
            </PlaceLink>
          </View>
        ))}
      </View>
    </View>
  );
}

function clientWords(client: ClientSummary): string {
  const parts = [
    ...(client.failingLines > 0
      ? [client.failingLines === 1 ? 'a line is failing' : `${client.failingLines} lines are failing`]
      : []),
    ...(client.waiting > 0 ? [`${client.waiting} waiting`] : []),
  ];
  return parts.join(', ') || 'all quiet';
}
const clientLabel = (client: ClientSummary) => `${client.name}, ${clientWords(client)}`;

function ClientState({ client }: { client: ClientSummary }) {
  if (client.failingLines > 0)
    return (
      <Words aria-hidden color="red" style={{ fontSize: 13 }}>
        ▲
      </Words>
    );
  return client.waiting > 0 ? (
    <Words kind="code" color="ochre">
      {String(client.waiting)}
    </Words>
  ) : null;
}

/** `g` then `t i l p m` goes to a place. */
function usePlaceKeys(places: Place[]) {
  // Kept across what comes in between: a page that changes meanwhile does not forget that g was pressed.
  const armed = useRef(0);
  useWindowEvent('keydown', (event) => {
    const target = event.target as HTMLElement;
    if (event.ctrlKey || event.metaKey || event.altKey || /^(input|textarea|select)$/i.test(target.tagName))
      return;
    if (event.key === 'g') armed.current = Date.now();
    else if (Date.now() - armed.current < 1_200) {
      armed.current = 0;
      const place = places.find((each) => each.key.startsWith(event.key));
      if (place) router.push(place.href as Href);
    }
  });
}
