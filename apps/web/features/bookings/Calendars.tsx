import { useState } from 'react';
import { View } from 'react-native';
import type { SWRResponse } from 'swr';
import type { CalendarRow } from '@dart-loop/contract';
import type { Calendar } from '@dart-loop/core/booking/calendar';
import { spansWords } from '@dart-loop/core/loops/edit/typedHours';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { WEEKDAYS } from '@dart-loop/core/time/clockTime';
import { Dialog } from '../../ui/Menu';
import { Empty, Failure, Refused, StateLine, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { grouped, momentWords } from '../../ui/time';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { CalendarForm } from './CalendarForm';

/** The calendars of a client: when each can be booked, what is free next, and which loops book in it. */
export function Calendars({
  client,
  rows,
  mayChange,
}: {
  client: string;
  rows: SWRResponse<CalendarRow[], Error>;
  mayChange: boolean;
}) {
  const { colors } = useTheme();
  const path = `/clients/${client}/calendars`;
  const { data, error, mutate } = rows;
  const [editing, setEditing] = useState<CalendarRow | 'new' | null>(null);
  const [leaving, setLeaving] = useState<CalendarRow | null>(null);
  const { act, problem } = useAct();
  const there = editing === 'new' ? null : editing;
  const keep = async (calendar: Calendar, over: boolean) => {
    const address = there ? `${path}/${there.id}${over ? '' : `?seen=${there.revision}`}` : path;
    await mutate(await ask<CalendarRow[]>(there ? 'PUT' : 'POST', address, calendar), { revalidate: false });
    setEditing(null);
  };
  const theirs = async () => {
    const now = (await mutate())?.find(({ id }) => id === there?.id);
    if (!now) throw new Error('The calendar is not there any more.');
    setEditing(now);
    return now.calendar;
  };
  return (
    <View style={{ gap: 8 }}>
      {mayChange && (
        <View style={{ alignItems: 'flex-start' }}>
          <QuietButton outlined title="Add calendar" onPress={() => setEditing('new')} />
        </View>
      )}
      <Refused problem={problem} />
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="No calendar yet"
          words="A calendar says when something can be booked, for how long, and how many at once."
        />
      )}
      <View role="list" aria-label="Calendars">
        {data?.map((row) => {
          const { calendar, loops, toCome, free, zone } = row;
          return (
            <View
              key={row.id}
              role="listitem"
              style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 2 }}
            >
              <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 12 }}>
                <Words kind="strong">{calendar.name}</Words>
                <Words kind="small">
                  {toCome === 0
                    ? 'nothing booked'
                    : toCome === 1
                      ? '1 booking to come'
                      : `${grouped(toCome)} bookings to come`}
                </Words>
                <View style={{ flex: 1 }} />
                {mayChange && (
                  <>
                    <QuietButton
                      title="Change"
                      tone="teal"
                      label={`Change ${calendar.name}`}
                      onPress={() => setEditing(row)}
                    />
                    <QuietButton
                      title="Remove"
                      tone="red"
                      label={`Remove ${calendar.name}`}
                      onPress={() => setLeaving(row)}
                    />
                  </>
                )}
              </View>
              <Words kind="small">{calendarWords(calendar)}</Words>
              <Words kind="small">{hoursWords(calendar)}</Words>
              {free[0] === undefined ? (
                <StateLine tone="warning">No free times.</StateLine>
              ) : (
                <Words kind="small">{`next free ${momentWords(free[0], zone)}`}</Words>
              )}
              <Words kind="small">
                {loops.length === 0 ? 'no loop books in it yet' : `booked in by ${loops.join(', ')}`}
              </Words>
            </View>
          );
        })}
      </View>
      {editing && (
        <CalendarForm
          calendar={there?.calendar ?? null}
          onClose={() => setEditing(null)}
          onKeep={keep}
          theirs={theirs}
        />
      )}
      <Dialog
        title={`Remove ${leaving?.calendar.name ?? ''}?`}
        open={leaving !== null}
        onClose={() => setLeaving(null)}
      >
        <View style={{ padding: 12, gap: 12 }}>
          <Words>Nothing more can be booked in it. Existing bookings are kept.</Words>
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title="Remove calendar"
              onPress={() => {
                const { id } = leaving!;
                setLeaving(null);
                void act(
                  async () =>
                    void (await mutate(await ask<CalendarRow[]>('DELETE', `${path}/${id}`), {
                      revalidate: false,
                    })),
                );
              }}
            />
            <QuietButton title="Cancel" onPress={() => setLeaving(null)} />
          </View>
        </View>
      </Dialog>
    </View>
  );
}

/** "1 h each, 15 min between; 4 places; booked at least 2 h before and at most 21 d ahead". */
const calendarWords = ({ length, gap, places, notice, ahead }: Calendar) =>
  `${durationWords(length)} each${gap ? `, ${durationWords(gap)} between` : ''}; ${places === 1 ? '1 place' : `${places} places`}; booked ${notice ? `at least ${durationWords(notice)} before and ` : ''}at most ${durationWords(ahead)} ahead`;

/** "Monday to Friday 09:00-17:00, Saturday 10:00-14:00": days in a row with the same hours are said once. */
function hoursWords({ hours }: Calendar): string {
  const runs: { days: string[]; spans: string }[] = [];
  for (const day of WEEKDAYS) {
    const spans = spansWords(hours[day] ?? []);
    const name = `${day[0]!.toUpperCase()}${day.slice(1)}`;
    const last = runs.at(-1);
    if (last?.spans === spans) last.days.push(name);
    else runs.push({ days: [name], spans });
  }
  return runs
    .filter(({ spans }) => spans !== '')
    .map(
      ({ days, spans }) =>
        `${days.length < 3 ? days.join(' and ') : `${days[0]} to ${days.at(-1)}`} ${spans}`,
    )
    .join('; ');
}
