import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { CopyRow, DestinationPage } from '@dart-loop/contract';
import { DESTINATION_KINDS } from '@dart-loop/core/sync/kinds/index';
import { Field } from '../../ui/Field';
import { Empty, Failure, Refused, StateLine, Waiting } from '../../ui/parts';
import { ActionButton, TextLink } from '../../ui/press';
import { TickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

interface Own {
  token: string;
  address: string;
}

/**
 * The same destination for other clients: which have a copy, what that has otherwise, and copying it to those
 * that are ticked.
 */
export function Copies({ path, page }: { path: string; page: DestinationPage }) {
  const { data, error, mutate } = useSWR<CopyRow[], Error>(`${path}/copies`);
  const [chosen, setChosen] = useState<Record<string, Own>>({});
  const [done, setDone] = useState<string | null>(null);
  const { act, busy, problem } = useAct();
  const clients = Object.keys(chosen);
  const { needsToken } = DESTINATION_KINDS[page.kind];
  const lacks = (data ?? []).some(
    (row) => chosen[row.client] && !row.copy && needsToken && chosen[row.client]!.token.trim() === '',
  );
  const copy = () =>
    act(async () => {
      const to = Object.entries(chosen).map(([client, { token, address }]) => ({
        client,
        ...(token.trim() && { token: token.trim() }),
        ...(address.trim() && { address: address.trim() }),
      }));
      await mutate(await ask<CopyRow[]>('POST', `${path}/copies`, { to }), { revalidate: false });
      setDone(to.length === 1 ? 'One client has it now.' : `${to.length} clients have it now.`);
      setChosen({});
    });
  return (
    <View style={{ gap: 12 }}>
      <Words kind="small">
        Columns, triggers and the filter are copied. Each client has its own token, and its own address if you
        enter one. A new copy is switched off until you have tested it.
      </Words>
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      <Refused problem={problem} />
      {data?.length === 0 && <Empty title="No other client" words="The agency has only this one." />}
      <View role="list" aria-label="Other clients">
        {data?.map((row) => (
          <Client
            key={row.client}
            row={row}
            own={chosen[row.client] ?? null}
            needsToken={needsToken}
            onChange={(own) => {
              setDone(null);
              setChosen(({ [row.client]: _before, ...others }) =>
                own ? { ...others, [row.client]: own } : others,
              );
            }}
          />
        ))}
      </View>
      {done && (
        <Words role="status" kind="strong">
          {done}
        </Words>
      )}
      {clients.length > 0 && (
        <View style={{ alignItems: 'flex-start' }}>
          <ActionButton
            title={clients.length === 1 ? 'Copy it to one client' : `Copy it to ${clients.length} clients`}
            busy={busy}
            disabled={lacks}
            onPress={() => void copy()}
          />
        </View>
      )}
    </View>
  );
}

const standing = ({
  copy,
  differences,
  missingFields,
  missingNames,
}: CopyRow): { tone: 'quiet' | 'warning'; words: string[] } => {
  if (!copy)
    return {
      tone: missingNames.length === 0 ? 'quiet' : 'warning',
      words: [
        missingFields.length === 0
          ? 'Not there yet.'
          : `Not there yet; it would get the fields ${missingFields.join(', ')}.`,
        ...missingNames,
      ],
    };
  if (differences.length + missingNames.length === 0)
    return {
      tone: 'quiet',
      words: [`The same, ${copy.host === null ? 'into its folder' : `at ${copy.host}`}, ${copy.state}.`],
    };
  return { tone: 'warning', words: [...differences, ...missingNames] };
};

function Client({
  row,
  own,
  needsToken,
  onChange,
}: {
  row: CopyRow;
  own: Own | null;
  needsToken: boolean;
  onChange: (own: Own | null) => void;
}) {
  const { colors, wide } = useTheme();
  const { tone, words } = standing(row);
  return (
    <View role="listitem" style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 8, gap: 4 }}>
      <TickRow
        label={row.name}
        on={own !== null}
        onChange={(on) => onChange(on ? { token: '', address: '' } : null)}
      />
      <View style={{ paddingLeft: 36, gap: 4 }}>
        {words.map((each) =>
          tone === 'warning' ? (
            <StateLine key={each} tone="warning">
              {each}
            </StateLine>
          ) : (
            <Words key={each} kind="small">
              {each}
            </Words>
          ),
        )}
        {row.copy && (
          <TextLink href={`/${row.client}/sync/${row.copy.id}`}>{`Open it at ${row.name}`}</TextLink>
        )}
        {own && (
          <View style={{ flexDirection: wide ? 'row' : 'column', gap: 8 }}>
            {needsToken && (
              <Field
                label={row.copy ? 'A new token, if wanted' : 'Its own token'}
                placeholder={row.copy?.hint ? `…${row.copy.hint} is kept` : undefined}
                autoCapitalize="none"
                autoCorrect={false}
                autoComplete="off"
                secureTextEntry
                value={own.token}
                onChangeText={(token) => onChange({ ...own, token })}
              />
            )}
            <Field
              label="Own address (optional)"
              placeholder={row.copy?.host ?? 'the same as here'}
              autoCapitalize="none"
              autoCorrect={false}
              value={own.address}
              onChangeText={(address) => onChange({ ...own, address })}
            />
          </View>
        )}
      </View>
    </View>
  );
}
