import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { webStyle } from '../../ui/onWeb';
import useSWR from 'swr';
import type { InletRow, NewInletAddress, SigningSecret, WebhooksPage } from '@dart-loop/contract';
import { Dialog } from '../../ui/Menu';
import { Field } from '../../ui/Field';
import { ActionButton, QuietButton, TextLink } from '../../ui/press';
import { Page } from '../../ui/Page';
import { Empty, Failure, Refused, StateLine, Waiting } from '../../ui/parts';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { ShownOnce } from '../../ui/ShownOnce';
import { addressOf } from './NewAddress';
import { useAct } from '../session/useAct';

/** What is known of an incoming webhook, in a line. */
export const heardWords = ({ hint, lastHeardAt, reads }: InletRow): string =>
  `…${hint}, ${lastHeardAt ? `last called ${whenWords(lastHeardAt)}` : 'never called yet'}${reads ? ', people are read from it' : ''}`;

/** What the client's own systems call, and the secret by which they know our calls. */
export function Webhooks() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const path = `/clients/${client}/webhooks`;
  const { data, error, mutate } = useSWR<WebhooksPage, Error>(path);
  const [hook, setHook] = useState('');
  const [made, setMade] = useState<{ hook: string; address: string } | null>(null);
  const [removing, setRemoving] = useState<InletRow | null>(null);
  const { act, problem } = useAct(mutate);
  const make = () =>
    act(async () => {
      const { address } = await ask<NewInletAddress>('POST', path, { hook: hook.trim() });
      setMade({ hook: hook.trim(), address });
      setHook('');
    });
  return (
    <Page title="Webhooks" back={{ href: '/more', words: 'More', onPhoneOnly: true }}>
      <Refused problem={problem} />
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      <View style={{ gap: 12, marginTop: 12 }}>
        <Words kind="heading">Incoming</Words>
        <Words kind="small">
          {
            'Another system posts {"person": {"email": "…"}} to the address, or a phone, id or address in place of the email. Loops whose cue is the webhook of that name then start for that person. Or people are read from whatever it posts: open the webhook and show it an example.'
          }
        </Words>
        {made && <ShownOnce title={addressOf(made.hook)} secret={made.address} />}
        {data?.inlets.length === 0 && !made && (
          <Empty
            title="No incoming webhook"
            words="Add one if an event in another system, such as a parcel being sent, should start a loop."
          />
        )}
        <View role="list" aria-label="Incoming webhooks" style={{ gap: 8 }}>
          {data?.inlets.map((inlet) => (
            <View
              key={inlet.id}
              role="listitem"
              style={{ flexDirection: 'row', alignItems: 'center', justifyContent: 'space-between', gap: 12 }}
            >
              <View style={{ flex: 1, minWidth: 0 }}>
                <TextLink href={`/${client}/webhooks/${inlet.id}`}>{inlet.hook}</TextLink>
                <Words kind="small">{heardWords(inlet)}</Words>
                {inlet.refusal && (
                  <StateLine tone="warning">{`The last call was refused: ${inlet.refusal}`}</StateLine>
                )}
              </View>
              <QuietButton
                title="Remove"
                label={`Remove ${inlet.hook}`}
                tone="red"
                onPress={() => setRemoving(inlet)}
              />
            </View>
          ))}
        </View>
        <View style={{ flexDirection: 'row', gap: 8, alignItems: 'flex-end', flexWrap: 'wrap' }}>
          <View style={{ flexGrow: 1, minWidth: 200 }}>
            <Field
              label="Name"
              placeholder="order-shipped"
              autoCapitalize="none"
              value={hook}
              onChangeText={setHook}
              onSubmitEditing={() => void make()}
              problem={
                hook !== '' && !/^[a-z0-9-]{1,40}$/.test(hook.trim())
                  ? 'Small letters, digits and hyphens, such as order-shipped.'
                  : null
              }
            />
          </View>
          <ActionButton
            title="Add webhook"
            disabled={!/^[a-z0-9-]{1,40}$/.test(hook.trim())}
            onPress={() => void make()}
          />
        </View>
        <Secret path={path} act={act} />
      </View>
      <Dialog
        title={`Remove ${removing?.hook ?? ''}?`}
        open={removing !== null}
        onClose={() => setRemoving(null)}
      >
        <View style={{ padding: 12, gap: 12 }}>
          <Words>Its address stops working at once. Loops keep their cue.</Words>
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title={`Remove ${removing?.hook ?? ''}`}
              onPress={() => {
                const { id } = removing!;
                setRemoving(null);
                setMade(null);
                void act(() => ask('DELETE', `${path}/${id}`));
              }}
            />
            <QuietButton title="Cancel" onPress={() => setRemoving(null)} />
          </View>
        </View>
      </Dialog>
    </Page>
  );
}

/** Shown when it is asked for, and written down who did. */
function Secret({ path, act }: { path: string; act: ReturnType<typeof useAct>['act'] }) {
  const [secret, setSecret] = useState<string | null>(null);
  const show = () =>
    act(async () => setSecret((await ask<SigningSecret>('POST', `${path}/secret`, {})).secret));
  return (
    <View style={{ gap: 6, marginTop: 12, alignItems: 'flex-start' }}>
      <Words kind="heading">Outgoing</Words>
      <Words kind="small">
        What a loop sends out is signed by the Standard Webhooks scheme. The other system checks the signature
        with this client’s secret.
      </Words>
      {secret ? (
        <Words kind="code" selectable color="ink" style={webStyle({ wordBreak: 'break-all' })}>
          {secret}
        </Words>
      ) : (
        <QuietButton outlined title="Show the secret" onPress={() => void show()} />
      )}
    </View>
  );
}
