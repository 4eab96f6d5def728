import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { HolidayRow } from '@dart-loop/contract/clients';
import { counted } from '@dart-loop/core/language/counted';
import { Dialog } from '../../ui/Menu';
import { Failure, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { TickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { dateWords } from '../../ui/time';

const ON_DAY: Intl.DateTimeFormatOptions = {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
};

/** The public holidays of the country in the coming year, of which some are closed days. */
export function HolidayPicker({
  client,
  country,
  daysOff,
  onChange,
}: {
  client: string;
  country: string;
  daysOff: string;
  onChange: (daysOff: string) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <View style={{ flexDirection: 'row' }}>
      <QuietButton outlined title="Public holidays" onPress={() => setOpen(true)} />
      {open && (
        <Chooser
          path={`/clients/${client}/brief/holidays?country=${encodeURIComponent(country)}`}
          country={country}
          daysOff={daysOff}
          onClose={() => setOpen(false)}
          onChoose={(next) => {
            onChange(next);
            setOpen(false);
          }}
        />
      )}
    </View>
  );
}

function Chooser({
  path,
  country,
  daysOff,
  onClose,
  onChoose,
}: {
  path: string;
  country: string;
  daysOff: string;
  onClose: () => void;
  onChoose: (daysOff: string) => void;
}) {
  const { data, error } = useSWR<HolidayRow[], Error>(path);
  const typed = daysOff.split(/[\s,;]+/).filter(Boolean);
  const [changed, setChanged] = useState<Record<string, boolean>>({});
  const isOff = ({ date }: HolidayRow) =>
    changed[date] ?? (typed.includes(date) || typed.includes(date.slice(5)));
  const everyYear = ({ date }: HolidayRow) => typed.includes(date.slice(5));
  const off = data?.filter(isOff) ?? [];
  const choose = () => {
    const left = typed.filter((each) => !data!.some(({ date }) => date === each && changed[date] === false));
    const added = off.filter((day) => !everyYear(day) && !left.includes(day.date)).map(({ date }) => date);
    onChoose([...left, ...added].join(', '));
  };
  return (
    <Dialog
      title="Public holidays"
      open
      onClose={onClose}
      foot={
        data &&
        data.length > 0 && (
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
            <ActionButton
              title={off.length === 0 ? 'Close on none of them' : `Close on ${counted(off.length, 'day')}`}
              onPress={choose}
            />
            <QuietButton
              title={off.length === data.length ? 'Clear all' : 'Choose all'}
              onPress={() =>
                setChanged(
                  Object.fromEntries(
                    data.filter((day) => !everyYear(day)).map(({ date }) => [date, off.length < data.length]),
                  ),
                )
              }
            />
          </View>
        )
      }
    >
      <View style={{ padding: 12 }}>
        {error && <Failure error={error} />}
        {!data && !error && <Waiting />}
        {data?.length === 0 && (
          <Words>{`No holidays are known of ${country}. Type the closed days as dates.`}</Words>
        )}
        {data?.map((day) => (
          <TickRow
            key={day.date}
            label={`${dateWords(day.date, ON_DAY)}, ${day.name}`}
            hint={everyYear(day) ? 'Closed every year on this date.' : undefined}
            on={isOff(day)}
            onChange={(next) => !everyYear(day) && setChanged({ ...changed, [day.date]: next })}
          />
        ))}
      </View>
    </Dialog>
  );
}
