import { useState } from 'react';
import { View } from 'react-native';
import { webStyle } from '../../ui/onWeb';
import { useSWRConfig } from 'swr';
import type { LineRow } from '@dart-loop/contract';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { menuKindsOf } from '@dart-loop/core/channels/menus';
import { Dialog } from '../../ui/Menu';
import { ActionButton, QuietButton } from '../../ui/press';
import { ChannelMark, Notice, Refused, Sheet, StateLine } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { exact, grouped, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { AsideList } from './AsideList';
import { Caps, capsWords } from './Caps';
import { ConnectForm } from './ConnectForm';
import { MenusForm } from './MenusForm';

const STATES = {
  'never heard': ['warning', 'connected, never heard yet'],
  connected: ['live', 'connected'],
  failing: ['failing', 'failing'],
} as const;

/** What a line is, whether it works, what could not be sent on it and why, and what can be done with it. */
export function LineSheet({
  line,
  client,
  path,
  showsAside,
  onDone,
}: {
  line: LineRow;
  client: string;
  path: string;
  /** Whether what was not processed is open from the beginning. */
  showsAside: boolean;
  onDone: (words: string) => void;
}) {
  const { mutate } = useSWRConfig();
  const { act, busy, problem } = useAct();
  const [open, setOpen] = useState<'disconnect' | 'renew' | 'caps' | 'menus' | 'aside' | null>(
    showsAside ? 'aside' : null,
  );
  const work = (task: () => Promise<string | null>) =>
    act(async () => {
      const words = await task();
      if (words) onDone(words);
      await mutate(path);
    });
  const test = async () => {
    const tested = await ask<LineRow>('POST', `${path}/${line.id}/test`, {});
    return tested.failure ? null : `${line.name} answers, and its webhook points here.`;
  };
  const close = () => setOpen(null);
  return (
    <View role="listitem">
      <Sheet style={{ padding: 16, gap: 6 }}>
        <View style={{ flexDirection: 'row', gap: 8, alignItems: 'center', flexWrap: 'wrap' }}>
          <ChannelMark channel={line.channel} />
          <Words kind="heading">{line.name}</Words>
          <Words kind="code">{line.key}</Words>
        </View>
        <State line={line} />
        {line.trial ? (
          <Words kind="small">
            For trying out: only the test phone writes to it, and nothing that is sent on it leaves this
            server.
          </Words>
        ) : null}
        {line.failure && <Notice tone="failing">{`${line.failure.reason} ${line.failure.remedy}`}</Notice>}
        <Notes notes={line.notes} />
        <Failures failures={line.failures} />
        <Templates templates={line.templates} />
        <Words kind="small">{capsWords(line)}</Words>
        {!line.trial && <Access line={line} />}
        <Refused problem={problem} />
        <View style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap' }}>
          <QuietButton
            outlined
            title={busy ? 'Testing …' : 'Test'}
            label={`Test ${line.name}`}
            disabled={busy}
            onPress={() => void work(test)}
          />
          {!line.trial && (
            <QuietButton
              outlined
              title="Renew"
              label={`Renew ${line.name}`}
              disabled={busy}
              onPress={() => setOpen('renew')}
            />
          )}
          {menuKindsOf(CHANNELS[line.channel].menus).length > 0 && (
            <QuietButton
              title="Menus"
              label={`Menus of ${line.name}`}
              disabled={busy}
              onPress={() => setOpen('menus')}
            />
          )}
          {(line.aside > 0 || open === 'aside') && (
            <QuietButton
              title={`Not processed (${grouped(line.aside)})`}
              label={`Not processed on ${line.name}: ${line.aside}`}
              onPress={() => setOpen('aside')}
            />
          )}
          <QuietButton
            title="Sending limits"
            label={`Sending limits of ${line.name}`}
            disabled={busy}
            onPress={() => setOpen('caps')}
          />
          <QuietButton
            title="Disconnect"
            label={`Disconnect ${line.name}`}
            tone="red"
            disabled={busy}
            onPress={() => setOpen('disconnect')}
          />
        </View>
        <Dialog title={`Renew ${line.name}`} open={open === 'renew'} onClose={close}>
          <View style={{ padding: 12 }}>
            <ConnectForm
              channel={line.channel}
              path={path}
              renews={line}
              onCancel={close}
              onConnected={() => {
                close();
                onDone(`${line.name} is renewed; what waited goes out now.`);
              }}
            />
          </View>
        </Dialog>
        <Dialog title={`Menus of ${line.name}`} open={open === 'menus'} onClose={close}>
          {open === 'menus' && <MenusForm line={line} path={path} />}
        </Dialog>
        <Dialog title={`Not processed on ${line.name}`} open={open === 'aside'} onClose={close}>
          {open === 'aside' && <AsideList line={line} client={client} path={path} />}
        </Dialog>
        <Dialog title={`Sending limits of ${line.name}`} open={open === 'caps'} onClose={close}>
          <Caps
            line={line}
            path={path}
            onDone={(words) => {
              close();
              onDone(words);
            }}
          />
        </Dialog>
        <Dialog title={`Disconnect ${line.name}?`} open={open === 'disconnect'} onClose={close}>
          <View style={{ padding: 12, gap: 12 }}>
            <Words>
              {line.trial
                ? 'The line is gone, and messages that still wait are not sent. Conversations and people are kept.'
                : 'Its secrets are deleted at once, and messages that still wait are not sent. Conversations and people are kept. To connect it again you need its secrets again.'}
            </Words>
            <View style={{ flexDirection: 'row', gap: 8 }}>
              <ActionButton
                title={`Disconnect ${line.name}`}
                onPress={() => {
                  close();
                  void work(async () => (await ask<{ words: string }>('DELETE', `${path}/${line.id}`)).words);
                }}
              />
              <QuietButton title="Cancel" onPress={close} />
            </View>
          </View>
        </Dialog>
      </Sheet>
    </View>
  );
}

const SECRETS: Record<string, string> = {
  appSecret: 'app secret',
  key: 'gateway key',
  signing: 'signing secret',
};

/** Where the platform hands events to, and the ends of the line's secrets. */
function Access({ line }: { line: LineRow }) {
  return (
    <>
      <Words kind="smallStrong">Webhook address</Words>
      <Words kind="code" selectable style={webStyle({ wordBreak: 'break-all' })}>
        {line.webhook}
      </Words>
      <Words kind="small">
        {Object.entries(line.hints)
          .map(([name, hint]) => `${SECRETS[name] ?? name} …${hint}`)
          .join(', ')}
      </Words>
    </>
  );
}

function State({ line }: { line: LineRow }) {
  const [tone, state] = STATES[line.state];
  const since = line.failingSince ? ` since ${whenWords(line.failingSince).replace(/^on /, '')}` : '';
  const heard = line.lastHeardAt ? `last heard ${whenWords(line.lastHeardAt)}` : 'nobody has written yet';
  const sent = line.lastSentAt ? `, last sent ${whenWords(line.lastSentAt)}` : '';
  const waits =
    line.held === 0
      ? ''
      : `; ${line.held === 1 ? '1 message waits' : `${line.held} messages wait`} to be sent`;
  const aside =
    line.aside === 0
      ? ''
      : `; ${line.aside === 1 ? '1 message' : `${line.aside} messages`} could not be processed`;
  return (
    <StateLine tone={tone} color="ink" title={line.lastHeardAt ? exact(line.lastHeardAt) : undefined}>
      {`${state}${since}; ${heard}${sent}${waits}${aside}`}
    </StateLine>
  );
}

/** What the platform says of the line. */
function Notes({ notes }: { notes: LineRow['notes'] }) {
  return notes.map(({ code, tone, words, at }) =>
    tone === 'warning' ? (
      <Notice key={code} tone="warning">
        {`${words}${at ? ` Last ${whenWords(at)}.` : ''}`}
      </Notice>
    ) : (
      <Words key={code} kind="small">
        {`${words}${at ? ` Last ${whenWords(at)}.` : ''}`}
      </Words>
    ),
  );
}

const TEMPLATE_STATES = {
  approved: ['live', 'approved'],
  pending: ['warning', 'not decided yet'],
  rejected: ['failing', 'rejected'],
  paused: ['warning', 'paused'],
} as const;

/** What may be sent where the window is shut. */
function Templates({ templates }: { templates: LineRow['templates'] }) {
  if (templates.length === 0) return null;
  return (
    <View style={{ gap: 2 }}>
      <Words kind="smallStrong">Templates</Words>
      {templates.map(({ name, language, status, body }) => (
        <StateLine key={`${name} ${language}`} tone={TEMPLATE_STATES[status][0]} color="ink">
          <Words kind="code" color="ink">{`${name} ${language}`}</Words>
          {`, ${TEMPLATE_STATES[status][1]}: ${body}`}
        </StateLine>
      ))}
    </View>
  );
}

/** Why messages of the last week were not sent, or wait. */
function Failures({ failures }: { failures: LineRow['failures'] }) {
  const { colors } = useTheme();
  if (failures.length === 0) return null;
  return (
    <View
      style={{
        gap: 4,
        borderLeftWidth: 2,
        borderColor: failures.some(({ waits }) => !waits) ? colors.red : colors.ochre,
        paddingLeft: 10,
      }}
    >
      <Words kind="smallStrong">Not sent in the last 7 days</Words>
      {failures.map(({ reason, remedy, count, waits }) => (
        <Words key={`${reason} ${waits}`} kind="small" color="ink">
          <Words
            kind="code"
            color={waits ? 'ochre' : 'red'}
          >{`${count} ${waits ? (count === 1 ? 'waits' : 'wait') : 'failed'}: `}</Words>
          {`${reason} ${remedy}`}
        </Words>
      ))}
    </View>
  );
}
