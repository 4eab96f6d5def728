import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import { SET_UP_PARTS, type CopiedTo, type SetUpPart } from '@dart-loop/contract/clients';
import { counted } from '@dart-loop/core/language/counted';
import { Field } from '../../ui/Field';
import { Page } from '../../ui/Page';
import { Notice, Refused, Sheet } from '../../ui/parts';
import { ActionButton, QuietButton, TextLink } from '../../ui/press';
import { Group, TickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useSession } from '../session/useSession';
import { useFound } from './useFound';

const PARTS = Object.entries(SET_UP_PARTS) as [SetUpPart, { name: string; label: string }][];

/** One name a line; empty lines are none. */
const namesIn = (typed: string): string[] =>
  typed
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');

/** What a client was set up with, for others: shown first as it will be, then copied to all or to none. */
export function CopySetUpPage() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const clients = useSession().data?.clients ?? [];
  const from = clients.find(({ slug }) => slug === client);
  const { mutate } = useSWRConfig();
  // Rules replace what a client has, so they are chosen and not usual.
  const [parts, setParts] = useState<SetUpPart[]>(
    PARTS.map(([part]) => part).filter((part) => part !== 'sending'),
  );
  const [to, setTo] = useState<string[]>([]);
  const [newNames, setNewNames] = useState('');
  const [shown, setShown] = useState<{ of: string; clients: CopiedTo[]; isDone: boolean } | null>(null);
  const { act, busy, problem } = useAct();
  const { found, finder } = useFound(clients.filter(({ slug }) => slug !== client));
  const body = { from: client, to, newClients: namesIn(newNames), parts };
  const many = to.length + body.newClients.length;
  // A preview says what was chosen when it was asked for.
  const asked = JSON.stringify(body);
  const preview = shown?.of === asked ? shown : null;
  const toggle = <T extends string>(all: T[], one: T, on: boolean) =>
    on ? [...all, one] : all.filter((each) => each !== one);
  const look = () =>
    act(async () =>
      setShown({
        of: asked,
        clients: await ask<CopiedTo[]>('POST', '/set-up-copies/preview', body),
        isDone: false,
      }),
    );
  const copy = () =>
    act(async () => {
      setShown({
        of: asked,
        clients: await ask<CopiedTo[]>('POST', '/set-up-copies', body),
        isDone: true,
      });
      await mutate('/session');
    });
  return (
    <Page
      title="Copy set-up"
      back={{ href: `/${client}/brief`, words: 'Brief' }}
      about={`What ${from?.name ?? 'the client'} was set up with, for other clients. People, lines, tokens and bookings stay here.`}
      width="form"
    >
      <View style={{ gap: 16 }}>
        <Group title="What">
          <View>
            {PARTS.map(([part, { label }]) => (
              <TickRow
                key={part}
                label={label}
                hint={part === 'sending' ? 'They replace the rules of a client that is there.' : undefined}
                on={parts.includes(part)}
                onChange={(on) => setParts((now) => toggle(now, part, on))}
              />
            ))}
          </View>
        </Group>
        <Group title="For whom">
          {finder}
          <View>
            {found.map(({ slug, name }) => (
              <TickRow
                key={slug}
                label={name}
                on={to.includes(slug)}
                onChange={(on) => setTo((now) => toggle(now, slug, on))}
              />
            ))}
          </View>
          <Field
            label="New clients"
            hint="One name a line. Each starts with this client’s country, zone and languages."
            value={newNames}
            onChangeText={setNewNames}
            multiline
            style={{ minHeight: 88, textAlignVertical: 'top' }}
          />
        </Group>
        <Refused problem={problem} />
        {!preview && (
          <View style={{ alignItems: 'flex-start' }}>
            <ActionButton
              title="Preview copy"
              busy={busy}
              disabled={many === 0 || parts.length === 0}
              onPress={() => void look()}
            />
          </View>
        )}
        {preview?.isDone && (
          <Notice tone="quiet">{`Copied to ${counted(preview.clients.length, 'client')}.`}</Notice>
        )}
        {preview && (
          <View
            role="list"
            aria-label={preview.isDone ? 'Copied' : 'What will be copied'}
            style={{ gap: 12 }}
          >
            {preview.clients.map((each) => (
              <Copied key={each.name} copied={each} isDone={preview.isDone} />
            ))}
          </View>
        )}
        {preview && !preview.isDone && (
          <View style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap' }}>
            <ActionButton
              title={`Copy to ${counted(many, 'client')}`}
              busy={busy}
              onPress={() => void copy()}
            />
            <QuietButton title="Cancel" onPress={() => setShown(null)} />
          </View>
        )}
      </View>
    </Page>
  );
}

/** What one client gets, or got. */
function Copied({ copied, isDone }: { copied: CopiedTo; isDone: boolean }) {
  const { slug, name, isNew, parts, left } = copied;
  const kept = parts.reduce((sum, part) => sum + part.kept.length, 0);
  const brought = parts.filter(({ added }) => added.length > 0);
  return (
    <View role="listitem">
      <Sheet style={{ padding: 16, gap: 8 }}>
        <Words kind="strong">{isNew && !isDone ? `${name} (new)` : name}</Words>
        {brought.length === 0 && <Words kind="small">Has everything already; nothing is added.</Words>}
        {brought.map(({ part, added }) => (
          <Words key={part} kind="small">
            {`${SET_UP_PARTS[part].name}: ${added.join(', ')}`}
          </Words>
        ))}
        {kept > 0 && brought.length > 0 && (
          <Words kind="small">
            {`Left as ${kept === 1 ? 'it is' : 'they are'}, as there is one of that name: ${parts.flatMap((part) => part.kept).join(', ')}`}
          </Words>
        )}
        {left.length > 0 && (
          <Words
            kind="small"
            color="ochre"
          >{`${counted(left.length, 'thing')} left to do by hand there.`}</Words>
        )}
        {isDone && slug && <TextLink href={`/${slug}/brief`}>{`Open ${name}`}</TextLink>}
      </Sheet>
    </View>
  );
}
