import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import useSWRInfinite from 'swr/infinite';
import type { BookingRow, BookingsPage, CalendarRow } from '@dart-loop/contract';
import { Choice } from '../../ui/Choice';
import { Dialog } from '../../ui/Menu';
import { Page } from '../../ui/Page';
import { Empty, Failure, Refused, Waiting } from '../../ui/parts';
import { ActionButton, PlaceLink, QuietButton, TextLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { dateWords, momentWords } from '../../ui/time';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useMay } from '../session/useSession';
import { Calendars } from './Calendars';

const SHOWN = [
  ['to come', 'To come'],
  ['past', 'Past'],
  ['calendars', 'Calendars'],
] as const;

/** Who has booked what, and the calendars that loops book in. */
export function Bookings() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const may = useMay();
  const [shown, setShown] = useState<(typeof SHOWN)[number][0]>('to come');
  const calendars = useSWR<CalendarRow[], Error>(`/clients/${client}/calendars`);
  return (
    <Page
      title="Bookings"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="Appointments that people booked in a conversation. A time is never booked twice."
    >
      <View
        role="radiogroup"
        aria-label="Show"
        style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6, marginVertical: 12 }}
      >
        {SHOWN.map(([key, words]) => (
          <Choice key={key} words={words} chosen={shown === key} onChoose={() => setShown(key)} />
        ))}
      </View>
      {shown === 'calendars' ? (
        <Calendars client={client} rows={calendars} mayChange={may('change calendars')} />
      ) : (
        <BookingList
          key={shown}
          client={client}
          when={shown}
          mayCancel={may('change bookings')}
          onCancelled={() => calendars.mutate()}
          none={
            calendars.data?.length === 0 && shown === 'to come' ? (
              <Empty
                title="No calendar yet"
                words="A calendar says when something can be booked. Add one, and a loop can book in it."
                action={<QuietButton outlined title="Open Calendars" onPress={() => setShown('calendars')} />}
              />
            ) : (
              <Empty
                title={shown === 'past' ? 'No past bookings' : 'No bookings'}
                words={
                  shown === 'past'
                    ? 'Bookings are shown here when they are over.'
                    : 'Bookings are shown here as soon as somebody has chosen a time.'
                }
              />
            )
          }
        />
      )}
    </Page>
  );
}

const dayOf = (iso: string, zone: string) =>
  dateWords(iso, {
    timeZone: zone,
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
  });
const clockOf = (iso: string, zone: string) =>
  dateWords(iso, { timeZone: zone, hour: '2-digit', minute: '2-digit' });

/** Bookings by day; those to come the soonest first, those that are over the latest first. */
function BookingList({
  client,
  when,
  mayCancel,
  onCancelled,
  none,
}: {
  client: string;
  when: 'to come' | 'past';
  mayCancel: boolean;
  onCancelled: () => Promise<unknown>;
  none: React.ReactNode;
}) {
  const { colors } = useTheme();
  const path = `/clients/${client}/bookings`;
  const { data, error, mutate, size, setSize } = useSWRInfinite<BookingsPage, Error>(
    (index, before: BookingsPage | null) =>
      before && before.next === null
        ? null
        : `${path}?when=${encodeURIComponent(when)}${index === 0 ? '' : `&after=${before!.next}`}`,
  );
  const [leaving, setLeaving] = useState<BookingRow | null>(null);
  const { act, problem } = useAct(() => Promise.all([mutate(), onCancelled()]));
  if (error && !data) return <Failure error={error} again={() => void mutate()} />;
  if (!data) return <Waiting />;
  const rows = data.flatMap((page) => page.rows);
  const zone = data[0]!.zone;
  if (rows.length === 0) return none;
  return (
    <View style={{ gap: 4 }}>
      <Refused problem={problem} />
      <View role="list" aria-label={when === 'past' ? 'Past bookings' : 'Bookings to come'}>
        {rows.map((row, index) => {
          const day = dayOf(row.startsAt, zone);
          const isGone = row.state === 'cancelled';
          return (
            <View key={row.id} role="listitem">
              {(index === 0 || dayOf(rows[index - 1]!.startsAt, zone) !== day) && (
                <Words kind="smallStrong" style={{ marginTop: index === 0 ? 0 : 16, marginBottom: 4 }}>
                  {day}
                </Words>
              )}
              <View
                style={{
                  flexDirection: 'row',
                  alignItems: 'center',
                  flexWrap: 'wrap',
                  columnGap: 12,
                  borderTopWidth: 1,
                  borderColor: colors.line,
                  paddingVertical: 6,
                }}
              >
                <Words
                  kind="code"
                  color={isGone ? 'quiet' : 'ink'}
                  style={isGone ? { textDecorationLine: 'line-through' } : undefined}
                >
                  {`${clockOf(row.startsAt, zone)}-${clockOf(row.endsAt, zone)}`}
                </Words>
                <View style={{ flex: 1, minWidth: 160 }}>
                  <PlaceLink
                    href={`/${client}/people/${row.personId}`}
                    style={{ minHeight: 32, justifyContent: 'center' }}
                  >
                    <Words kind="strong" color={isGone ? 'quiet' : 'ink'} numberOfLines={2}>
                      {row.name}
                    </Words>
                  </PlaceLink>
                  <Words kind="small">{`${row.calendar}${isGone ? ', cancelled' : ''}`}</Words>
                </View>
                {mayCancel && when === 'to come' && !isGone && (
                  <QuietButton
                    title="Cancel"
                    tone="red"
                    label={`Cancel ${row.calendar} of ${row.name}`}
                    onPress={() => setLeaving(row)}
                  />
                )}
              </View>
            </View>
          );
        })}
      </View>
      {data.at(-1)!.next !== null && (
        <View style={{ alignItems: 'flex-start', paddingVertical: 8 }}>
          <QuietButton
            outlined
            title={when === 'past' ? 'Show earlier bookings' : 'Show later bookings'}
            onPress={() => void setSize(size + 1)}
          />
        </View>
      )}
      <Dialog title="Cancel this booking?" open={leaving !== null} onClose={() => setLeaving(null)}>
        {leaving && (
          <View style={{ padding: 12, gap: 12 }}>
            <Words>
              {`${leaving.name}: ${leaving.calendar}, ${momentWords(leaving.startsAt, zone)}. The time is free again at once, and its day and time no longer stand with the person.`}
            </Words>
            <Words kind="small">The person is not told automatically. Write to them.</Words>
            <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
              <ActionButton
                title="Cancel booking"
                onPress={() => {
                  const { id } = leaving;
                  setLeaving(null);
                  void act(() => ask('POST', `${path}/${id}/cancel`, {}));
                }}
              />
              {leaving.conversationId && (
                <TextLink href={`/inbox/${client}/${leaving.conversationId}`}>Open conversation</TextLink>
              )}
              <QuietButton title="Keep booking" onPress={() => setLeaving(null)} />
            </View>
          </View>
        )}
      </Dialog>
    </View>
  );
}
