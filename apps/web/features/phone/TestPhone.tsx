import { useLocalSearchParams } from 'expo-router';
import { useCallback, useEffect, useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { LineRow } from '@dart-loop/contract';
import { Choice } from '../../ui/Choice';
import { QuietButton, TextLink } from '../../ui/press';
import { PageHead, usePageInset } from '../../ui/Page';
import { ChannelMark, Empty, Failure, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { ask } from '../session/api';
import { useSession } from '../session/useSession';
import { Handset } from './Handset';
import type { Customer } from './useHandset';

const NAMES = ['Mira', 'Tam', 'Odile', 'Bas', 'Runa', 'Ike', 'Wenna', 'Joss'];

/** A stand-in telephone that plays customers on every channel, through the real webhooks. */
export function TestPhone() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const { wide } = useTheme();
  const inset = usePageInset();
  const { data, error, mutate } = useSWR<LineRow[], Error>(`/clients/${client}/lines`);
  const everyLine = useSession().data?.testPhone === 'every line';
  const lines = data?.filter((each) => everyLine || each.trial);
  const [chosen, choose] = useState<number | null>(null);
  const line =
    lines?.find((each) => each.id === chosen) ??
    lines?.find((each) => each.state !== 'failing') ??
    lines?.[0];
  return (
    <View style={{ flex: 1, ...inset, paddingBottom: 12 }}>
      <View style={{ width: '100%', maxWidth: wide ? 900 : 460, flex: 1 }}>
        <PageHead title="Test phone" back={{ href: '/more', words: 'More', onPhoneOnly: true }} />
        {error && !lines && <Failure error={error} again={() => void mutate()} />}
        {!lines && !error && <Waiting />}
        {lines?.length === 0 && (
          <Empty
            title="No line to write to"
            words={
              everyLine
                ? 'The test phone plays a customer who writes to one of the client’s lines. Connect one first.'
                : 'The test phone writes to lines for trying out, never to real ones. Make one first.'
            }
            action={
              <TextLink href={`/${client}/lines`}>
                {everyLine ? 'Connect a line' : 'Make a line for trying out'}
              </TextLink>
            }
          />
        )}
        {lines && line && (
          <>
            <View
              role="radiogroup"
              aria-label="Line"
              style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap', paddingVertical: 4 }}
            >
              {lines.map((each) => (
                <Choice
                  key={each.id}
                  words={each.name}
                  chosen={each.id === line.id}
                  onChoose={() => choose(each.id)}
                  mark={<ChannelMark channel={each.channel} />}
                />
              ))}
            </View>
            <Customers key={line.id} client={client} line={line} />
          </>
        )}
      </View>
    </View>
  );
}

/**
 * Those whom the phone plays on a line: at first somebody who has never written to it, then as many more as
 * are asked for.
 */
function Customers({ client, line }: { client: string; line: LineRow }) {
  const [people, setPeople] = useState<Customer[]>([]);
  const [chosen, choose] = useState<string | null>(null);
  const [problem, setProblem] = useState<Error | null>(null);
  const meet = useCallback(() => {
    setProblem(null);
    ask<{ who: string }>('POST', `/clients/${client}/test-phone/somebody`, { line: line.id }).then(
      ({ who }) => {
        setPeople((known) => [...known, { who, name: NAMES[known.length % NAMES.length]! }]);
        choose(who);
      },
      setProblem,
    );
  }, [client, line.id]);
  useEffect(meet, [meet]);
  const one = people.find((each) => each.who === chosen);
  if (problem && !one) return <Failure error={problem} again={meet} />;
  if (!one) return <Waiting />;
  return (
    <>
      <View
        style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap', alignItems: 'center', paddingBottom: 4 }}
      >
        {people.length > 1 && (
          <View
            role="radiogroup"
            aria-label="Customer"
            style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap' }}
          >
            {people.map((each) => (
              <Choice
                key={each.who}
                words={each.name}
                chosen={each.who === one.who}
                onChoose={() => choose(each.who)}
              />
            ))}
          </View>
        )}
        <QuietButton title="New customer" onPress={meet} />
      </View>
      {problem && <Failure error={problem} again={meet} />}
      <Handset key={one.who} client={client} line={line} customer={one} />
    </>
  );
}
