import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { SendingSettings } from '@dart-loop/contract';
import { CHANNEL_NAMES } from '@dart-loop/core/channels/names';
import { QUIET, type QuietHours } from '@dart-loop/core/consent/quietHours';
import { CHANNEL_KINDS, type ChannelKind } from '@dart-loop/core/channels/channelKind';
import { readTimeOfDay } from '@dart-loop/core/loops/edit/typedTime';
import { Field } from '../../ui/Field';
import { ActionButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { ChannelMark, Failure, Notice, Waiting } from '../../ui/parts';
import { Group, PickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

/** Quiet hours as they are typed: "21:00 to 08:00"; empty for none. */
export function readQuiet(typed: string): QuietHours | 'wrong' {
  if (/^\s*(none)?\s*$/i.test(typed)) return null;
  const [, from = '', to = ''] = /^\s*(.+?)\s*(?:to|–|-)\s*(.+?)\s*$/i.exec(typed) ?? [];
  const [begins, ends] = [readTimeOfDay(from), readTimeOfDay(to)];
  return begins && ends ? { from: begins, to: ends } : 'wrong';
}
const quietWords = (quiet: QuietHours) => (quiet ? `${quiet.from} to ${quiet.to}` : '');
const number = (typed: string) => (typed.trim() === '' ? null : Number(typed));
const wrongNumber = (typed: string) =>
  /^\s*\d*\s*$/.test(typed) && number(typed) !== 0 ? null : 'A whole number from 1, or nothing.';

/** When and how often people are written to unasked, who becomes one with whom, and how long what is kept. */
export function Sending() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const path = `/clients/${client}/sending`;
  const { data, error, mutate } = useSWR<SendingSettings, Error>(path, { revalidateOnFocus: false });
  return (
    <Page title="Sending rules" back={{ href: '/more', words: 'More', onPhoneOnly: true }}>
      {error && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && (
        <Form
          settings={data}
          onKeep={async (next) =>
            void (await mutate(await ask<SendingSettings>('PUT', path, next), { revalidate: false }))
          }
        />
      )}
    </Page>
  );
}

function Form({
  settings,
  onKeep,
}: {
  settings: SendingSettings;
  onKeep: (next: SendingSettings) => Promise<void>;
}) {
  const [quiet, setQuiet] = useState<Record<ChannelKind, string>>(
    () =>
      Object.fromEntries(
        CHANNEL_KINDS.map((kind) => [
          kind,
          quietWords(settings.quiet[kind] === undefined ? QUIET[kind] : (settings.quiet[kind] ?? null)),
        ]),
      ) as Record<ChannelKind, string>,
  );
  const [perDay, setPerDay] = useState(String(settings.frequency.perDay ?? ''));
  const [perWeek, setPerWeek] = useState(String(settings.frequency.perWeek ?? ''));
  const [matching, setMatching] = useState(settings.matching);
  const [messages, setMessages] = useState(String(settings.retention.messages ?? ''));
  const [people, setPeople] = useState(String(settings.retention.people ?? ''));
  const [kept, setKept] = useState(false);
  const { act, busy, failure: error } = useAct();
  const wrong =
    CHANNEL_KINDS.some((kind) => readQuiet(quiet[kind]) === 'wrong') ||
    [perDay, perWeek, messages, people].some(wrongNumber);
  const keep = () =>
    act(async () => {
      await onKeep({
        // What is as it is for everybody is not kept as the client's own.
        quiet: Object.fromEntries(
          CHANNEL_KINDS.flatMap((kind) =>
            quiet[kind].trim() === quietWords(QUIET[kind]) ? [] : [[kind, readQuiet(quiet[kind])]],
          ),
        ) as SendingSettings['quiet'],
        frequency: { perDay: number(perDay), perWeek: number(perWeek) },
        matching,
        retention: { messages: number(messages), people: number(people) },
      });
      setKept(true);
    });
  return (
    <View style={{ gap: 24, marginTop: 8 }}>
      <Group title="Quiet hours">
        <Words kind="small">
          In each person’s own time zone, where it is known, else that of their number, else the client’s.
          Reminders and dates wait until quiet hours are over; answers are always sent.
        </Words>
        {CHANNEL_KINDS.map((kind) => (
          <View key={kind} style={{ flexDirection: 'row', alignItems: 'flex-start', gap: 10 }}>
            <View style={{ width: 36, paddingTop: 36, alignItems: 'flex-start' }}>
              <ChannelMark channel={kind} />
            </View>
            <Field
              label={CHANNEL_NAMES[kind].name}
              placeholder="none"
              value={quiet[kind]}
              onChangeText={(next) => setQuiet({ ...quiet, [kind]: next })}
              problem={
                readQuiet(quiet[kind]) === 'wrong'
                  ? 'Write a range such as “21:00 to 08:00”, or leave it empty.'
                  : null
              }
              hint={
                QUIET[kind] && quiet[kind].trim() === ''
                  ? `The channel’s rules require ${quietWords(QUIET[kind])}.`
                  : undefined
              }
            />
          </View>
        ))}
      </Group>
      <Group title="Frequency">
        <Words kind="small">
          Messages that a person did not ask for, over all lines together. What exceeds this waits in order
          and is not lost.
        </Words>
        <Field
          label="Most in 24 hours"
          placeholder="no limit"
          inputMode="numeric"
          value={perDay}
          onChangeText={setPerDay}
          problem={wrongNumber(perDay)}
        />
        <Field
          label="Most in 7 days"
          placeholder="no limit"
          inputMode="numeric"
          value={perWeek}
          onChangeText={setPerWeek}
          problem={wrongNumber(perWeek)}
        />
      </Group>
      <Group title="Matching people">
        <PickRow
          label="People with the same number or email"
          value={matching}
          options={[
            ['suggested', 'are suggested to the team'],
            ['automatic', 'are merged automatically'],
          ]}
          onChange={setMatching}
        />
        <Words kind="small">A merge can be undone for 30 days.</Words>
      </Group>
      <Group title="Data retention">
        <Field
          label="Delete messages and events after (days)"
          placeholder="for ever"
          inputMode="numeric"
          value={messages}
          onChangeText={setMessages}
          problem={wrongNumber(messages)}
        />
        <Field
          label="Delete inactive people after (days)"
          placeholder="for ever"
          inputMode="numeric"
          value={people}
          onChangeText={setPeople}
          problem={wrongNumber(people)}
          hint="Each deletion leaves a receipt."
        />
      </Group>
      {error && <Failure error={error} />}
      {kept && <Notice tone="quiet">Saved. It applies to everything that has not been sent yet.</Notice>}
      <View style={{ flexDirection: 'row' }}>
        <ActionButton title="Save rules" busy={busy} disabled={wrong} onPress={() => void keep()} />
      </View>
    </View>
  );
}
