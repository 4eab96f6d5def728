import { useState } from 'react';
import { Image, View } from 'react-native';
import useSWR from 'swr';
import { ConfirmFactor, EndFactor, type FactorState, type NewFactor } from '@dart-loop/contract/accounts';
import { counted } from '@dart-loop/core/language/counted';
import { webStyle } from '../../ui/onWeb';
import { Failure, Refused, Sheet, Waiting } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { Group } from '../../ui/rows';
import { saveFile } from '../../ui/saveFile';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { FormField, useSentForm } from '../session/useSentForm';

/** A second factor beside the password: set up with an authenticator, and turned off again. */
export function OwnFactor() {
  const { data, error, mutate } = useSWR<FactorState, Error>('/account/second-factor');
  const [made, setMade] = useState<NewFactor | null>(null);
  const [codes, setCodes] = useState<string[] | null>(null);
  const [ending, setEnding] = useState(false);
  const { act, busy, problem } = useAct();
  return (
    <Group title="Second factor">
      <Refused problem={problem} />
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && (
        <Words kind="small">
          {data.since
            ? `On ${whenWords(data.since).replace(/^on /, 'since ')}. ${counted(data.codesLeft, 'recovery code is', 'recovery codes are')} left.`
            : 'Off. With it, whoever knows your password still cannot sign in.'}
        </Words>
      )}
      {codes && <Codes codes={codes} onClose={() => setCodes(null)} />}
      {data && !data.since && !made && (
        <View style={{ flexDirection: 'row' }}>
          <QuietButton
            outlined
            title="Set up second factor"
            disabled={busy}
            onPress={() =>
              void act(async () => setMade(await ask<NewFactor>('POST', '/account/second-factor', {})))
            }
          />
        </View>
      )}
      {made && (
        <SetUp
          made={made}
          onDone={(given) => {
            setMade(null);
            setCodes(given);
            void mutate();
          }}
          onClose={() => setMade(null)}
        />
      )}
      {data?.since && !ending && (
        <View style={{ flexDirection: 'row' }}>
          <QuietButton outlined tone="red" title="Turn off second factor" onPress={() => setEnding(true)} />
        </View>
      )}
      {data?.since && ending && (
        <End
          onClose={() => setEnding(false)}
          onDone={() => {
            setEnding(false);
            setCodes(null);
            void mutate();
          }}
        />
      )}
    </Group>
  );
}

/** The authenticator reads the picture, and shows that it has by its first code. */
function SetUp({
  made,
  onDone,
  onClose,
}: {
  made: NewFactor;
  onDone: (codes: string[]) => void;
  onClose: () => void;
}) {
  const form = useSentForm(ConfirmFactor, { code: '' }, async (values) => {
    const { codes } = await ask<{ codes: string[] }>('POST', '/account/second-factor/codes', values);
    onDone(codes);
  });
  return (
    <View style={{ gap: 10 }}>
      <Words kind="small">
        Open the authenticator on your phone, read this picture with it, and type the six digits that it
        shows.
      </Words>
      <Image
        source={{ uri: `data:image/svg+xml,${encodeURIComponent(made.picture)}` }}
        accessibilityLabel="QR code for the authenticator"
        style={{ width: 180, height: 196 }}
        resizeMode="contain"
      />
      <Words kind="small">Without a camera, type this into it:</Words>
      <Words kind="code" selectable color="ink" style={webStyle({ wordBreak: 'break-all' })}>
        {made.secret.replace(/(.{4})(?=.)/g, '$1 ')}
      </Words>
      <Refused problem={form.failure?.message} />
      <FormField of={form} name="code" label="Code" inputMode="numeric" autoComplete="one-time-code" />
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <QuietButton outlined title="Turn on" disabled={form.busy} onPress={form.submit} />
        <QuietButton title="Cancel" onPress={onClose} />
      </View>
    </View>
  );
}

/** What lets one in when the phone is lost; shown this once. */
function Codes({ codes, onClose }: { codes: string[]; onClose: () => void }) {
  return (
    <Sheet style={{ padding: 16, gap: 8 }}>
      <Words kind="strong">Your recovery codes</Words>
      <Words kind="small">
        Each lets you in once when your phone is lost. Keep them where your password is not: they are not
        shown again.
      </Words>
      <View
        role="list"
        aria-label="Recovery codes"
        style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}
      >
        {codes.map((code) => (
          <View key={code} role="listitem" style={{ minWidth: 120 }}>
            <Words kind="code" color="ink" selectable>
              {code}
            </Words>
          </View>
        ))}
      </View>
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <QuietButton
          outlined
          title="Save as a file"
          onPress={() =>
            saveFile('dart-loop-recovery-codes.txt', new Blob([codes.join('\n')], { type: 'text/plain' }))
          }
        />
        <QuietButton title="Hide codes" onPress={onClose} />
      </View>
    </Sheet>
  );
}

function End({ onDone, onClose }: { onDone: () => void; onClose: () => void }) {
  const form = useSentForm(EndFactor, { password: '' }, async (values) => {
    await ask('POST', '/account/second-factor/end', values);
    onDone();
  });
  return (
    <View style={{ gap: 10 }}>
      <Refused problem={form.failure?.message} />
      <FormField
        of={form}
        name="password"
        label="Your password, to turn it off"
        secureTextEntry
        autoComplete="current-password"
      />
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <QuietButton outlined tone="red" title="Turn off" disabled={form.busy} onPress={form.submit} />
        <QuietButton title="Cancel" onPress={onClose} />
      </View>
    </View>
  );
}
