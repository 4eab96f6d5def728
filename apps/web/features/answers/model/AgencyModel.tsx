import { View } from 'react-native';
import useSWR from 'swr';
import type { AgencyModelPage } from '@dart-loop/contract/model';
import { counted } from '@dart-loop/core/language/counted';
import { Page } from '../../../ui/Page';
import { Failure, Refused, Waiting } from '../../../ui/parts';
import { ActionButton } from '../../../ui/press';
import { Words } from '../../../ui/Words';
import { ask } from '../../session/api';
import { RemoveButton } from '../../session/RemoveButton';
import { useSentForm } from '../../session/useSentForm';
import { ModelFields, ModelForm, bodyOf, costWords, startOf } from './modelForm';

/** The hosted model that the agency has for its clients. */
export function AgencyModel() {
  const { data, error, mutate } = useSWR<AgencyModelPage, Error>('/model');
  return (
    <Page
      title="Hosted model"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="Asked where a client’s own sources are not sure. Each client’s page of Answers says whether it is used there."
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && <Kept key={JSON.stringify(data.kept)} page={data} changed={mutate} />}
    </Page>
  );
}

function Kept({ page, changed }: { page: AgencyModelPage; changed: () => Promise<unknown> }) {
  const { kept, spent, usedBy } = page;
  const form = useSentForm(ModelForm, startOf(kept), async (values) => {
    await ask('PUT', '/model', bodyOf(values));
    await changed();
  });
  return (
    <View style={{ gap: 16, maxWidth: 560 }}>
      {kept && (
        <View>
          <Words>{usedBy.length > 0 ? `Used for ${usedBy.join(', ')}.` : 'No client uses it yet.'}</Words>
          {spent.map(({ currency, calls, cost }) => (
            <Words key={currency} kind="small">
              {`This month: ${counted(calls, 'question')}, ${costWords(cost, currency)}`}
            </Words>
          ))}
        </View>
      )}
      <Refused problem={form.failure?.message} />
      <ModelFields of={form} hint={kept?.hint ?? null} />
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 12 }}>
        <ActionButton title={kept ? 'Save' : 'Set it up'} busy={form.busy} onPress={form.submit} />
        {kept && (
          <RemoveButton
            name="the hosted model"
            words="Clients that use it are answered from their sources alone."
            remove={async () => {
              await ask('DELETE', '/model');
              await changed();
            }}
          />
        )}
      </View>
    </View>
  );
}
