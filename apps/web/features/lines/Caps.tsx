import { useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import type { LineCaps, LineRow } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { ActionButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

/** The caps of a line in a sentence. */
export function capsWords({ caps, unaskedToday }: Pick<LineRow, 'caps' | 'unaskedToday'>): string {
  const limits = [
    ...(caps.perDay === null ? [] : [`${unaskedToday} of ${caps.perDay} unasked messages sent today`]),
    ...(caps.perPerson === null ? [] : [`at most ${caps.perPerson} a day to one person`]),
  ];
  return limits.length === 0 ? 'No sending limits.' : `${limits.join(', ')}.`;
}

const read = (words: string): number | null => (words.trim() === '' ? null : Number(words.trim()));

/** How many messages that nobody asked for may go out in a day. */
export function Caps({
  line,
  path,
  onDone,
}: {
  line: LineRow;
  path: string;
  onDone: (words: string) => void;
}) {
  const { mutate } = useSWRConfig();
  const [perDay, setPerDay] = useState(String(line.caps.perDay ?? ''));
  const [perPerson, setPerPerson] = useState(String(line.caps.perPerson ?? ''));
  const { act, busy, of } = useAct();
  const wrong = (words: string) =>
    /^\s*\d*\s*$/.test(words) && read(words) !== 0 ? null : 'A whole number from 1, or nothing for no cap.';
  const save = () =>
    act(async () => {
      const caps: LineCaps = { perDay: read(perDay), perPerson: read(perPerson) };
      const saved = await ask<LineRow>('PUT', `${path}/${line.id}/caps`, caps);
      await mutate(path);
      onDone(`${line.name}: ${capsWords(saved)}`);
    });
  return (
    <View style={{ padding: 12, gap: 12 }}>
      <Words kind="small" color="ink">
        Counts messages that a person did not ask for, such as reminders. Answers to what somebody has just
        written are always sent. What exceeds the limit is sent after midnight.
      </Words>
      <Field
        label="Most per day on this line"
        placeholder="no limit, or such as 500"
        inputMode="numeric"
        value={perDay}
        onChangeText={setPerDay}
        problem={wrong(perDay) ?? of('perDay')}
      />
      <Field
        label="Most per day to one person"
        placeholder="no limit, or such as 2"
        inputMode="numeric"
        value={perPerson}
        onChangeText={setPerPerson}
        problem={wrong(perPerson) ?? of('perPerson')}
      />
      <View style={{ flexDirection: 'row' }}>
        <ActionButton
          title="Save limits"
          busy={busy}
          onPress={() => void save()}
          disabled={Boolean(wrong(perDay) ?? wrong(perPerson))}
        />
      </View>
    </View>
  );
}
