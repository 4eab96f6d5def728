import { useLocalSearchParams } from 'expo-router';
import { Suspense, lazy } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { BriefPage, ClientBrief } from '@dart-loop/contract/clients';
import { counted } from '@dart-loop/core/language/counted';
import { currencyOf } from '@dart-loop/core/people/currency';
import { Field } from '../../ui/Field';
import { Page } from '../../ui/Page';
import { Failure, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton, TextLink } from '../../ui/press';
import { Group } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { HolidayPicker } from '../hours/HolidayPicker';
import { HoursFields } from '../hours/HoursFields';
import { hoursOf, hoursProblems, typedHoursOf, type TypedHours } from '../hours/hours';
import { ApiError, ask } from '../session/api';
import { Refusal } from '../session/Refusal';
import { useAct } from '../session/useAct';
import { useMay } from '../session/useSession';
import { useWritten } from '../session/useWritten';
import { ArchiveClient } from './ArchiveClient';
import { LeftToDo, leftPath } from './LeftToDo';
import { NextSteps } from './NextSteps';
import { OwnEntries } from './OwnEntries';

/** What hours mean is reckoned by the engine’s clocks. */
const OpenWords = lazy(() => import('../needsEngine').then((parts) => ({ default: parts.OpenWords })));

/** The entries that every brief has a place for, by their keys. */
const ENTRIES: [key: string, label: string, hint?: string][] = [
  ['address', 'Address'],
  ['phone', 'Phone'],
  [
    'hours',
    'Opening hours, in words',
    'As a loop says them; those below are what waits and hand-overs go by.',
  ],
  ['booking_link', 'Booking link'],
  ['privacy_link', 'Privacy policy link', 'Needed by loops that start with an ad or a lead form.'],
  ['tone', 'Tone', 'How the client speaks, for whoever writes its loops.'],
];
const KNOWN = new Set(ENTRIES.map(([key]) => key));

/** A brief as it is being written: what is typed, before it is read. */
interface Draft {
  name: string;
  brief: Record<string, string>;
  entryTypes: ClientBrief['entryTypes'];
  country: string;
  currency: string;
  timeZone: string;
  languages: string;
  hours: TypedHours;
}
const draftOf = (page: BriefPage): Draft => ({
  name: page.name,
  brief: Object.fromEntries(Object.entries(page.brief).map(([key, said]) => [key, said ?? ''])),
  entryTypes: page.entryTypes,
  country: page.country,
  currency: page.currency ?? '',
  timeZone: page.timeZone,
  languages: page.languages.join(', '),
  hours: typedHoursOf(page.openingHours),
});
const briefOf = ({ hours, languages, currency, ...draft }: Draft): ClientBrief => ({
  ...draft,
  currency: currency.trim() || null,
  languages: languages.split(/[\s,]+/).filter((each) => each !== ''),
  openingHours: hoursOf(hours),
});

/** The client's facts, kept once and merged anywhere. */
export function Brief() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const may = useMay();
  const path = `/clients/${client}/brief`;
  const { data, error, mutate } = useSWR<BriefPage, Error>(path);
  return (
    <Page
      title="Brief"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="The client’s facts: kept once, merged into any text, and what hours and languages go by"
      width="form"
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && <Written key={client} client={client} page={data} read={() => mutate()} />}
      {data && may('manage clients') && (
        <View style={{ marginTop: 24, gap: 16 }}>
          <Group title="Set-up">
            <Words kind="small">
              Loops, fields, lists, segments and the like can be copied to other clients, new or there
              already.
            </Words>
            <TextLink href={`/${client}/copy`}>Copy set-up</TextLink>
          </Group>
          <ArchiveClient client={client} name={data.name} />
        </View>
      )}
    </Page>
  );
}

function Written({ client, page, read }: { client: string; page: BriefPage; read: () => Promise<unknown> }) {
  const canChange = useMay()('change brief');
  const { mutate } = useSWRConfig();
  const { written, changed, seen, write, leave } = useWritten(draftOf(page), page.revision);
  const { act, busy, failure } = useAct();
  const problems = hoursProblems(written.hours);
  const keep = (over = false) =>
    act(async () => {
      const query = over || !seen ? '' : `?seen=${seen}`;
      await ask('PUT', `/clients/${client}/brief${query}`, briefOf(written));
      await read();
      leave();
      await Promise.all([mutate('/session'), mutate(leftPath(client))]);
    });
  const at = (field: string) =>
    failure instanceof ApiError ? (failure.of(field) ?? failure.of(`${field}.0`)) : null;
  const text = (
    key: 'name' | 'country' | 'currency' | 'timeZone' | 'languages',
    label: string,
    hint?: string,
  ) => (
    <Field
      label={label}
      hint={hint}
      value={written[key]}
      editable={canChange}
      autoCapitalize={key === 'name' ? 'sentences' : 'none'}
      problem={at(key)}
      onChangeText={(typed) => write((now) => ({ ...now, [key]: typed }))}
    />
  );
  const entry = (key: string, said: string) =>
    write((now) => ({ ...now, brief: { ...now.brief, [key]: said } }));
  return (
    <View style={{ gap: 16 }}>
      {canChange && <LeftToDo client={client} />}
      <NextSteps client={client} />
      {text('name', 'Name')}
      {ENTRIES.map(([key, label, hint]) => (
        <Field
          key={key}
          label={label}
          hint={usedByWords(page, key) ?? hint}
          value={written.brief[key] ?? ''}
          editable={canChange}
          problem={emptiedWords(page, key, written.brief[key]) ?? at(`brief.${key}`)}
          onChangeText={(said) => entry(key, said)}
        />
      ))}
      <OwnEntries
        client={client}
        entries={Object.entries(written.brief).filter(([key]) => !KNOWN.has(key))}
        hintOf={(key) => usedByWords(page, key)}
        types={written.entryTypes}
        onType={(key, type) => write((now) => ({ ...now, entryTypes: { ...now.entryTypes, [key]: type } }))}
        problemOf={(key) => emptiedWords(page, key, written.brief[key]) ?? at(`brief.${key}`) ?? at('brief')}
        canChange={canChange}
        onChange={entry}
      />
      <Group title="Place and language">
        {text('country', 'Country', 'Two letters, such as GB: how local telephone numbers are read.')}
        {text(
          'currency',
          'Currency',
          `Three letters, such as GBP. Left empty, it is ${currencyOf(written.country)}, as in the country.`,
        )}
        {text('timeZone', 'Time zone')}
        {text(
          'languages',
          'Languages',
          'Two letters each; the first is the one that loops are written in: “en, es”.',
        )}
      </Group>
      <HoursFields
        typed={written.hours}
        problems={problems}
        editable={canChange}
        onChange={(hours) => write((now) => ({ ...now, hours }))}
        holidays={
          canChange && (
            <HolidayPicker
              client={client}
              country={written.country}
              daysOff={written.hours.daysOff}
              onChange={(daysOff) => write((now) => ({ ...now, hours: { ...now.hours, daysOff } }))}
            />
          )
        }
      />
      {Object.keys(problems).length === 0 && (
        <Suspense fallback={null}>
          <OpenWords hours={hoursOf(written.hours)} timeZone={written.timeZone} />
        </Suspense>
      )}
      {canChange && (
        <View style={{ gap: 8 }}>
          <Refusal
            failure={failure}
            busy={busy}
            onTheirs={() => void act(async () => (await read(), leave()))}
            onMine={() => void keep(true)}
          />
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title="Save brief"
              busy={busy}
              disabled={!changed || Object.keys(problems).length > 0}
              onPress={() => void keep()}
            />
            {changed && <QuietButton title="Discard changes" disabled={busy} onPress={leave} />}
          </View>
        </View>
      )}
    </View>
  );
}

/** Where an entry is merged, in words; null where it is not. */
function usedByWords({ usedBy }: BriefPage, key: string): string | null {
  const loops = usedBy[key] ?? [];
  if (loops.length === 0) return null;
  return loops.length <= 2 ? `Used by ${loops.join(' and ')}.` : `Used by ${counted(loops.length, 'loop')}.`;
}

/** What breaks where an entry is emptied. */
function emptiedWords(page: BriefPage, key: string, said: string | undefined): string | null {
  const loops = page.usedBy[key] ?? [];
  if (loops.length === 0 || said?.trim()) return null;
  return `Empty, and used by ${loops.join(', ')}: nothing would stand there.`;
}
