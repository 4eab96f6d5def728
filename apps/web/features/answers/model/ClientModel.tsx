import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { ClientModelPage } from '@dart-loop/contract/model';
import { ModelLimits, WORDINGS } from '@dart-loop/core/answers/hosted/settings';
import { counted } from '@dart-loop/core/language/counted';
import { Failure, Refused, StateLine, Waiting } from '../../../ui/parts';
import { ActionButton } from '../../../ui/press';
import { Group, PickRow, TickRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import { ask } from '../../session/api';
import { useAct } from '../../session/useAct';
import { useMay } from '../../session/useSession';
import { FormField, useSentForm } from '../../session/useSentForm';
import { AnswersPage } from '../AnswersPage';
import { ModelCalls } from './ModelCalls';
import { ModelFields, ModelForm, bodyOf, costWords, startOf, typed } from './modelForm';

export const modelPath = (client: string) => `/clients/${client}/model`;
export const useClientModel = (client: string) => useSWR<ClientModelPage, Error>(modelPath(client));

/** Whether a hosted model answers for a client, within which limits, and what came of it. */
export function ClientModel() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const { data, error, mutate } = useClientModel(client);
  const changes = useMay()('change sources');
  return (
    <AnswersPage
      client={client}
      tab="Model"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="A hosted model is asked where the sources alone are not sure. It may say only what they say."
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && (
        <View style={{ gap: 24 }}>
          <Spent page={data} />
          {changes && (
            <Settings
              key={JSON.stringify([data.own, data.limits, data.uses])}
              page={data}
              client={client}
              changed={(page) => mutate(page, false)}
            />
          )}
          <ModelCalls calls={data.calls} client={client} />
        </View>
      )}
    </AnswersPage>
  );
}

function Spent({ page: { uses, spent, agency, own } }: { page: ClientModelPage }) {
  if (uses === 'none') return <StateLine tone="quiet">Not used: the sources answer alone.</StateLine>;
  const named = uses === 'agency' ? agency?.model : own?.model.model;
  return (
    <View>
      <Words>
        {named ? `Used: ${named}${uses === 'agency' ? ', the agency’s' : ''}.` : 'Used, and not there.'}
      </Words>
      <Words kind="small">
        {spent.length === 0
          ? 'Nothing was asked this month.'
          : `This month: ${spent
              .map(
                ({ calls, cost, currency }) => `${counted(calls, 'question')}, ${costWords(cost, currency)}`,
              )
              .join('; ')}`}
      </Words>
    </View>
  );
}

const { patience, mostTokens, mostAMonth } = ModelLimits.shape;
const LimitsForm = ModelLimits.extend({
  patience: typed(patience),
  mostTokens: typed(mostTokens),
  mostAMonth: typed(mostAMonth),
});

const WORDING_WORDS = [
  ['quoted', 'The sources’ own sentences'],
  ['own words', 'In its own words'],
] as const satisfies readonly (readonly [(typeof WORDINGS)[number], string])[];

interface SettingsProps {
  page: ClientModelPage;
  client: string;
  changed: (page: ClientModelPage) => Promise<unknown>;
}

/** Which model is used takes effect at once; how it may answer is saved. */
function Settings({ page, client, changed }: SettingsProps) {
  const [choosesOwn, setChoosesOwn] = useState(false);
  const { act, problem } = useAct();
  const { agency, own, limits } = page;
  const use = (uses: ClientModelPage['uses']) =>
    act(async () => {
      const sets = uses !== 'own' || own !== null;
      setChoosesOwn(!sets);
      if (!sets) return;
      const body = { uses, own: own?.model ?? null, limits };
      await changed(await ask<ClientModelPage>('PUT', modelPath(client), body));
    });
  const uses = choosesOwn ? 'own' : page.uses;
  const options = [
    ['none', 'None'],
    ...(agency ? [['agency', `The agency’s, ${agency.model}`] as const] : []),
    ['own', 'One of this client’s own'],
  ] as const;
  return (
    <View style={{ gap: 16, maxWidth: 560 }}>
      <PickRow label="Which one is used" value={uses} options={options} onChange={(next) => void use(next)} />
      <Refused problem={problem} />
      {uses === 'own' && <OwnModel page={page} client={client} changed={changed} />}
      {page.uses !== 'none' && <Limits page={page} client={client} changed={changed} />}
    </View>
  );
}

function OwnModel({ page: { own, limits }, client, changed }: SettingsProps) {
  const form = useSentForm(ModelForm, startOf(own), async (values) => {
    const { model, token } = bodyOf(values);
    const body = { uses: 'own', own: model, token, limits };
    await changed(await ask<ClientModelPage>('PUT', modelPath(client), body));
  });
  return (
    <Group title="The client’s own model">
      <Refused problem={form.failure?.message} />
      <ModelFields of={form} hint={own?.hint ?? null} />
      <View style={{ alignItems: 'flex-start' }}>
        <ActionButton title={own ? 'Save the model' : 'Use it'} busy={form.busy} onPress={form.submit} />
      </View>
    </Group>
  );
}

function Limits({ page: { uses, own, agency, limits }, client, changed }: SettingsProps) {
  const start = {
    ...limits,
    ...{ patience: String(limits.patience), mostTokens: String(limits.mostTokens) },
    mostAMonth: String(limits.mostAMonth),
  };
  const form = useSentForm(LimitsForm, start, async (values) => {
    const body = { uses, own: own?.model ?? null, limits: values };
    await changed(await ask<ClientModelPage>('PUT', modelPath(client), body));
  });
  const { wording, tellsPersonal } = form.form.watch();
  const currency = (uses === 'own' ? own?.model.currency : agency?.currency) ?? '';
  return (
    <Group title="How it may answer">
      <Refused problem={form.failure?.message} />
      <PickRow
        label="It says"
        value={wording}
        options={WORDING_WORDS}
        onChange={(next) => form.form.setValue('wording', next)}
      />
      <Words kind="small">
        {wording === 'quoted'
          ? 'It chooses sentences of the sources; these are said as they stand, with their exceptions.'
          : 'Each sentence is held against the passages it names: numbers, days, names, addresses, promises and what is denied. That finds most of what is made up, and not all.'}
      </Words>
      <FormField of={form} name="patience" label="Seconds it may take" inputMode="numeric" />
      <FormField of={form} name="mostTokens" label="Tokens an answer may have" inputMode="numeric" />
      <FormField
        of={form}
        name="mostAMonth"
        label={`It may cost a month for this client, in ${currency}`}
        hint="Then the sources answer alone until the next month begins"
        inputMode="decimal"
      />
      <TickRow
        label="It may be told who asks"
        hint="Otherwise names, email addresses and telephone numbers are left out of what is sent and kept"
        on={tellsPersonal}
        onChange={(next) => form.form.setValue('tellsPersonal', next)}
      />
      <View style={{ alignItems: 'flex-start' }}>
        <ActionButton title="Save" busy={form.busy} onPress={form.submit} />
      </View>
    </Group>
  );
}
