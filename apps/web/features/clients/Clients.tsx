import { router, type Href } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import { NewClient, type ClientRow, type ClientsPage } from '@dart-loop/contract/clients';
import { counted } from '@dart-loop/core/language/counted';
import { Dialog } from '../../ui/Menu';
import { Page } from '../../ui/Page';
import { Empty, Failure, Refused, Waiting } from '../../ui/parts';
import { ActionButton, PlaceLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { grouped } from '../../ui/time';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';
import { GoneClients } from './GoneClients';
import { useFound } from './useFound';

/** All clients of the agency, with what each has and what waits there. */
export function Clients() {
  const { data, error, mutate } = useSWR<ClientsPage, Error>('/clients');
  const { mutate: refresh } = useSWRConfig();
  const [adding, setAdding] = useState(false);
  const { found, finder } = useFound(data?.clients ?? []);
  return (
    <Page
      title="Clients"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="Everybody the agency works for"
      width="wide"
      actions={<ActionButton title="Add client" onPress={() => setAdding(true)} />}
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.clients.length === 0 && (
        <Empty
          title="No client yet"
          words="A client has its own brief, lines, loops and people, and sees nothing of the others. Add the first one."
        />
      )}
      {finder}
      <View role="list" aria-label="Clients">
        {found.map((client) => (
          <ClientLine key={client.id} client={client} />
        ))}
      </View>
      {data && <GoneClients page={data} changed={async () => Promise.all([mutate(), refresh('/session')])} />}
      <AddClient open={adding} onClose={() => setAdding(false)} />
    </Page>
  );
}

function ClientLine({ client }: { client: ClientRow }) {
  const { colors, wide } = useTheme();
  const needs = [
    ...(client.failingLines > 0
      ? [counted(client.failingLines, 'line is failing', 'lines are failing')]
      : []),
    ...(client.waiting > 0 ? [`${client.waiting} waiting`] : []),
  ].join(', ');
  const has = [
    counted(client.lines, 'line'),
    counted(client.liveLoops, 'live loop'),
    `${grouped(client.people)} people`,
  ].join(', ');
  return (
    <View role="listitem">
      <PlaceLink
        href={`/${client.slug}/brief`}
        style={{ borderTopWidth: 1, borderColor: colors.line, borderRadius: 0, paddingVertical: 12 }}
      >
        <View
          style={{
            flexDirection: wide ? 'row' : 'column',
            alignItems: wide ? 'baseline' : undefined,
            columnGap: 16,
          }}
        >
          <Words kind="strong" style={{ flex: wide ? 2 : undefined }}>
            {client.name}
          </Words>
          <Words kind="small" style={{ flex: wide ? 2 : undefined }}>
            {has}
          </Words>
          <Words
            kind="small"
            color={client.failingLines > 0 ? 'red' : client.waiting > 0 ? 'ochre' : 'quiet'}
            style={{ flex: wide ? 1 : undefined }}
          >
            {needs || 'nothing waits'}
          </Words>
        </View>
      </PlaceLink>
    </View>
  );
}

/** What this browser is set to is the likeliest for a client, too. */
function likely(): { country: string; timeZone: string; language: string } {
  const { timeZone } = Intl.DateTimeFormat().resolvedOptions();
  const [language = 'en', region] = navigator.language.split('-');
  return {
    country: region && /^[A-Z]{2}$/.test(region) ? region : 'GB',
    timeZone: timeZone || 'Europe/London',
    language: /^[a-z]{2}$/.test(language) ? language : 'en',
  };
}

function AddClient({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { mutate } = useSWRConfig();
  const form = useSentForm(NewClient, { name: '', ...likely() }, async (values) => {
    const { slug } = await ask<{ slug: string }>('POST', '/clients', values);
    onClose();
    form.form.reset();
    await mutate('/session');
    router.push(`/${slug}/brief` as Href);
  });
  return (
    <Dialog
      title="Add client"
      open={open}
      onClose={onClose}
      foot={
        <>
          <Refused problem={form.failure?.message} />
          <ActionButton title="Add client" busy={form.busy} onPress={form.submit} />
        </>
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <FormField of={form} name="name" label="Name" autoFocus />
        <FormField
          of={form}
          name="country"
          label="Country"
          hint="Two letters, such as GB: how local telephone numbers are read."
          autoCapitalize="characters"
        />
        <FormField of={form} name="timeZone" label="Time zone" autoCapitalize="none" />
        <FormField
          of={form}
          name="language"
          label="Language"
          hint="Two letters, such as en: what its loops are written in. More can be added later."
          autoCapitalize="none"
        />
      </View>
    </Dialog>
  );
}
