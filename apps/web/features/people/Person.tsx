import { router, useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { By, EditPerson, PeopleVocabulary, PersonPage } from '@dart-loop/contract';
import { may } from '@dart-loop/contract/roles';
import { Field } from '../../ui/Field';
import { Dialog, Menu } from '../../ui/Menu';
import { ActionButton, PlaceLink, QuietButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { ChannelMark, Empty, Failure, Notice, Waiting } from '../../ui/parts';
import { PickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { exact, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { Inset } from '../inbox/PersonSide';
import { ask, type ApiError } from '../session/api';
import { useSession } from '../session/useSession';
import { MergeSheet } from './MergeSheet';
import { Timeline } from './Timeline';

type Editing =
  | { what: 'name' }
  | { what: 'field'; key: string | null }
  | { what: 'tag' }
  | { what: 'list' }
  | { what: 'opt out' }
  | { what: 'erase' }
  | { what: 'merge'; other: string };

/**
 * One person: facts with who set them and when, tags, lists, identities, others who may be the same, and
 * everything that happened on one timeline.
 */
export function Person() {
  const { colors, wide } = useTheme();
  const { client, person } = useLocalSearchParams<{ client: string; person: string }>();
  const path = `/clients/${client}/people/${person}`;
  const { mutate: mutateAll } = useSWRConfig();
  const { data, error, mutate } = useSWR<PersonPage, Error>(path);
  const known = useSWR<PeopleVocabulary, Error>(`/clients/${client}/people/vocabulary`).data;
  const role = useSession().data?.account.role;
  const [editing, setEditing] = useState<Editing | null>(null);
  const [notice, setNotice] = useState<string | null>(null);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const seesLoops = role !== undefined && may(role, 'see loops');
  const changes = role !== undefined && may(role, 'change people');
  const manages = role !== undefined && may(role, 'manage people');
  const close = () => {
    setEditing(null);
    setProblem(null);
  };
  const keep = async (words: string, work: () => Promise<PersonPage | void>) => {
    try {
      const page = await work();
      await mutate(page ?? undefined, { revalidate: !page });
      setNotice(words);
      close();
    } catch (reason) {
      setProblem(reason as ApiError);
    }
  };
  const edit = (words: string, body: EditPerson) => keep(words, () => ask<PersonPage>('PUT', path, body));
  const source = (by: By | null, at: string | null) =>
    by && at ? <Provenance by={by} at={at} client={client} link={seesLoops} /> : null;
  const erase = (reason: string) =>
    keep('', async () => {
      await ask('POST', `/clients/${client}/people/actions`, {
        people: { ids: [person] },
        action: { do: 'erase', reason },
      });
      await mutateAll(`/clients/${client}/tasks`);
      router.replace(`/${client}/people`);
    });

  return (
    <Page
      title={data?.name ?? 'Person'}
      width="wide"
      back={{ href: `/${client}/people`, words: 'People' }}
      actions={
        data &&
        changes && (
          <Menu
            label="More about this person"
            title={data.name}
            items={[
              { key: 'name', words: 'Change name', onChoose: () => setEditing({ what: 'name' }) },
              {
                key: 'out',
                words: 'Opt out',
                more: 'From a line, a list or everything, at their request',
                onChoose: () => setEditing({ what: 'opt out' }),
              },
              {
                key: 'proof',
                words: 'Proof of consent',
                more: 'Opt-ins and opt-outs, to print',
                onChoose: () => router.push(`/${client}/people/${person}/proof`),
              },
              ...(manages
                ? [
                    {
                      key: 'archive',
                      words: 'Export everything about them',
                      onChoose: () => window.location.assign(`/api${path}/archive`),
                    },
                    {
                      key: 'erase',
                      words: 'Delete',
                      more: 'All data about them, permanently',
                      tone: 'red' as const,
                      onChoose: () => setEditing({ what: 'erase' }),
                    },
                  ]
                : []),
            ]}
          >
            <Words kind="strong" color="teal" style={{ paddingHorizontal: 6 }}>
              More
            </Words>
          </Menu>
        )
      }
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {notice && <Notice tone="quiet">{notice}</Notice>}
      {data && (
        <>
          <Words kind="small" {...({ title: exact(data.createdAt) } as object)}>
            {[
              `First met ${whenWords(data.createdAt)}, last ${whenWords(data.lastSeenAt)}.`,
              data.source && `Came from ${data.source}.`,
            ]
              .filter(Boolean)
              .join(' ')}
          </Words>
          {manages &&
            data.alike.map((alike) => (
              <Notice key={alike.id} tone="warning">
                <Words
                  kind="small"
                  color="ink"
                >{`${alike.name} may be the same person: both have ${alike.shared.join(' and ')}.`}</Words>
                <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
                  <QuietButton
                    outlined
                    title="Review merge"
                    onPress={() => setEditing({ what: 'merge', other: alike.id })}
                  />
                  <QuietButton
                    title="Not the same person"
                    onPress={() =>
                      void keep(`${alike.name} is not suggested again.`, () =>
                        ask('POST', `${path}/not-same`, { other: alike.id }),
                      )
                    }
                  />
                </View>
              </Notice>
            ))}
          {manages &&
            data.merged.map((merge) => (
              <Notice key={merge.id} tone="quiet">
                <Words
                  kind="small"
                  color="ink"
                >{`Merged with ${merge.name} ${whenWords(merge.at)}. This can be undone until ${new Date(merge.until).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })}.`}</Words>
                <View style={{ flexDirection: 'row' }}>
                  <QuietButton
                    outlined
                    title="Undo merge"
                    onPress={() =>
                      void keep(
                        `${merge.name} is a person of their own again, as before.`,
                        async () =>
                          void (await ask('POST', `/clients/${client}/merges/${merge.id}/part`, {})),
                      )
                    }
                  />
                </View>
              </Notice>
            ))}
          <View
            style={{
              flexDirection: wide ? 'row' : 'column',
              gap: wide ? 40 : 28,
              marginTop: 12,
              alignItems: 'flex-start',
            }}
          >
            <View style={{ gap: 28, width: wide ? undefined : '100%', flex: wide ? 1 : undefined }}>
              <View style={{ width: '100%' }}>
                <Heading
                  title="Fields"
                  add={changes ? () => setEditing({ what: 'field', key: null }) : undefined}
                  label="Add field"
                />
                {data.facts.length === 0 && (
                  <Empty
                    title="No fields yet"
                    words="Answers to a loop’s questions are shown here, with who set them and when."
                  />
                )}
                {data.facts.map((fact) => (
                  <View
                    key={fact.key}
                    style={{ borderBottomWidth: 1, borderColor: colors.line, paddingVertical: 8 }}
                  >
                    <View style={{ flexDirection: 'row', columnGap: 12, alignItems: 'center' }}>
                      <Words color="quiet" style={{ flexShrink: 1 }}>
                        {fact.name}
                      </Words>
                      <View style={{ flex: 1 }} />
                      <Words kind="strong" style={{ flexShrink: 1, textAlign: 'right' }}>
                        {fact.words}
                      </Words>
                      {changes && (
                        <QuietButton
                          title="Change"
                          tone="teal"
                          label={`Change ${fact.name}`}
                          onPress={() => setEditing({ what: 'field', key: fact.key })}
                        />
                      )}
                    </View>
                    <View
                      style={{
                        flexDirection: 'row',
                        flexWrap: 'wrap',
                        columnGap: 8,
                        justifyContent: 'space-between',
                      }}
                    >
                      {source(fact.by, fact.at)}
                      <Words kind="small">{fact.personal ? `${fact.type}, personal` : fact.type}</Words>
                    </View>
                  </View>
                ))}
              </View>
              <Named
                title="Tags"
                label="Add tag"
                rows={data.tags.map(({ tag, at, by }) => ({ name: tag, at, by }))}
                source={source}
                add={changes ? () => setEditing({ what: 'tag' }) : undefined}
                remove={
                  changes ? (tag) => void edit(`Removed the tag ${tag}.`, { tagsOff: [tag] }) : undefined
                }
              />
              <Named
                title="Lists"
                label="Add to a list"
                rows={data.lists.map(({ list, at, by }) => ({ name: list, at, by }))}
                source={source}
                add={changes ? () => setEditing({ what: 'list' }) : undefined}
                remove={
                  changes
                    ? (list) => void edit(`Removed from the list ${list}.`, { listsOff: [list] })
                    : undefined
                }
              />
              <View style={{ width: '100%' }}>
                <Words kind="heading">Identities</Words>
                {data.identities.length === 0 && <Words color="quiet">Not reachable on any line yet.</Words>}
                {data.identities.map((identity) => (
                  <PlaceLink
                    key={identity.id}
                    href={`/inbox/${client}/${identity.id}`}
                    style={{
                      borderBottomWidth: 1,
                      borderColor: colors.line,
                      borderRadius: 0,
                      paddingVertical: 8,
                    }}
                  >
                    <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
                      <ChannelMark channel={identity.channel} />
                      <Words kind="code" color="ink">
                        {identity.handle ?? identity.address}
                      </Words>
                      <Words kind="small">{`on ${identity.line}, ${whenWords(identity.since)}`}</Words>
                      {identity.optedOut && (
                        <Words kind="smallStrong" color="ochre">
                          ◆ opted out
                        </Words>
                      )}
                      {identity.optedIn && (
                        <Words kind="smallStrong" color="teal">
                          ● opted in
                        </Words>
                      )}
                      <View style={{ flex: 1 }} />
                      <Words kind="smallStrong" color="teal">
                        Open conversation
                      </Words>
                    </View>
                  </PlaceLink>
                ))}
              </View>
            </View>
            <View style={{ width: wide ? undefined : '100%', flex: wide ? 1 : undefined }}>
              <Timeline entries={data.timeline} client={client} seesLoops={seesLoops} />
            </View>
          </View>
          {editing?.what === 'merge' && (
            <MergeSheet
              client={client}
              person={person}
              other={editing.other}
              onClose={close}
              onMerged={(page) => void keep('Merged.', () => Promise.resolve(page))}
            />
          )}
          {editing && editing.what !== 'merge' && (
            <EditSheet
              key={JSON.stringify(editing)}
              editing={editing}
              data={data}
              known={known}
              problem={problem}
              onClose={close}
              onEdit={edit}
              onErase={erase}
              onOptOut={(of, stated) =>
                void keep('Recorded in the consent history.', () =>
                  ask<PersonPage>('POST', `${path}/opt-out`, { of, stated }),
                )
              }
            />
          )}
        </>
      )}
    </Page>
  );
}

function Heading({ title, add, label }: { title: string; add?: () => void; label: string }) {
  return (
    <View style={{ flexDirection: 'row', alignItems: 'center', gap: 12 }}>
      <Words kind="heading">{title}</Words>
      {add && <QuietButton title="Add" tone="teal" label={label} onPress={add} />}
    </View>
  );
}

function Named({
  title,
  label,
  rows,
  source,
  add,
  remove,
}: {
  title: string;
  label: string;
  rows: { name: string; at: string | null; by: By | null }[];
  source: (by: By | null, at: string | null) => React.ReactNode;
  add?: () => void;
  remove?: (name: string) => void;
}) {
  return (
    <View style={{ gap: 8, width: '100%' }}>
      <Heading title={title} add={add} label={label} />
      {rows.length === 0 && <Words color="quiet">None.</Words>}
      {rows.map(({ name, at, by }) => (
        <View
          key={name}
          style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 10, alignItems: 'center' }}
        >
          <Inset>{name}</Inset>
          {source(by, at)}
          <View style={{ flex: 1 }} />
          {remove && (
            <QuietButton
              title="Remove"
              tone="quiet"
              label={`Take off ${name}`}
              onPress={() => remove(name)}
            />
          )}
        </View>
      ))}
    </View>
  );
}

/** One thing about a person that is changed. */
function EditSheet({
  editing,
  data,
  known,
  problem,
  onClose,
  onEdit,
  onErase,
  onOptOut,
}: {
  editing: Exclude<Editing, { what: 'merge' }>;
  data: PersonPage;
  known: PeopleVocabulary | undefined;
  problem: ApiError | null;
  onClose: () => void;
  onEdit: (words: string, body: EditPerson) => void;
  onErase: (reason: string) => void;
  onOptOut: (of: object, stated: string) => void;
}) {
  const fact = editing.what === 'field' ? data.facts.find((each) => each.key === editing.key) : undefined;
  const [first, setFirst] = useState(data.firstName ?? '');
  const [last, setLast] = useState(data.lastName ?? '');
  const [field, setField] = useState(editing.what === 'field' ? (editing.key ?? '') : '');
  const [words, setWords] = useState(fact?.words ?? '');
  const [stated, setStated] = useState('');
  const [of, setOf] = useState('everything');
  const chosen = known?.fields.find((each) => each.key === field);
  const name = chosen?.name ?? field;
  const shown = {
    name: {
      title: 'Change name',
      action: 'Keep the name',
      ready: first.trim() !== '' || last.trim() !== '',
      done: () => onEdit('Name saved.', { firstName: first, lastName: last }),
    },
    field: {
      title: fact ? `Change ${fact.name}` : 'Add field',
      action: words.trim() === '' && fact ? `Clear ${fact.name}` : 'Save',
      ready: field !== '' && (fact !== undefined || words.trim() !== ''),
      done: () => onEdit(`${name} is kept.`, { fields: { [field]: words.trim() === '' ? null : words } }),
    },
    tag: {
      title: 'Add tag',
      action: 'Add the tag',
      ready: words.trim() !== '',
      done: () => onEdit(`Added the tag ${words.trim()}.`, { tagsOn: [words.trim()] }),
    },
    list: {
      title: 'Add to a list',
      action: 'Add to list',
      ready: words.trim() !== '' && stated.trim() !== '',
      done: () => onEdit(`Added to the list ${words.trim()}.`, { listsOn: [words.trim()], stated }),
    },
    'opt out': {
      title: 'Opt out at their request',
      action: 'Opt them out',
      ready: stated.trim() !== '',
      done: () =>
        onOptOut(
          of === 'everything'
            ? { scope: 'everything' }
            : of.startsWith('line:')
              ? { scope: 'line', lineId: Number(of.slice(5)) }
              : { scope: 'list', list: of.slice(5) },
          stated,
        ),
    },
    erase: {
      title: `Delete ${data.name}`,
      action: `Delete ${data.name} permanently`,
      ready: words.trim() !== '',
      done: () => onErase(words),
    },
  }[editing.what];
  return (
    <Dialog
      title={shown.title}
      open
      onClose={onClose}
      foot={<ActionButton title={shown.action} disabled={!shown.ready} onPress={shown.done} />}
    >
      <View style={{ padding: 12, gap: 12 }}>
        {editing.what === 'name' && (
          <>
            <Field label="First name" value={first} onChangeText={setFirst} autoFocus />
            <Field label="Last name" value={last} onChangeText={setLast} />
          </>
        )}
        {editing.what === 'field' && (
          <>
            {!fact && (
              <PickRow
                label="Field"
                value={field}
                options={(known?.fields ?? [])
                  .filter(({ key }) => !data.facts.some((each) => each.key === key))
                  .map((each) => [each.key, each.name] as const)}
                onChange={setField}
              />
            )}
            {chosen && chosen.options.length > 0 && chosen.type === 'one of' ? (
              <PickRow
                label={chosen.name}
                value={words}
                options={chosen.options.map((option) => [option, option] as const)}
                onChange={setWords}
              />
            ) : (
              <Field
                label={fact?.name ?? chosen?.name ?? 'Value'}
                value={words}
                onChangeText={setWords}
                autoFocus={Boolean(fact)}
                problem={problem?.message}
                hint={chosen ? `It is kept as ${chosen.type}.` : undefined}
              />
            )}
          </>
        )}
        {(editing.what === 'tag' || editing.what === 'list') && (
          <>
            <Field
              label={editing.what === 'tag' ? 'The tag' : 'List'}
              value={words}
              onChangeText={setWords}
              autoFocus
            />
            <PickRow
              label="Already known"
              value={words}
              options={((editing.what === 'tag' ? known?.tags : known?.lists) ?? [])
                .slice(0, 12)
                .map((each) => [each, each] as const)}
              onChange={setWords}
            />
          </>
        )}
        {editing.what === 'opt out' && (
          <PickRow
            label="From"
            value={of}
            options={[
              ['everything', 'everything'] as const,
              ...data.identities
                .filter((identity) => !identity.optedOut)
                .map((identity) => [`line:${identity.lineId}`, identity.line] as const),
              ...data.lists.map(({ list }) => [`list:${list}`, `the list ${list}`] as const),
            ]}
            onChange={setOf}
          />
        )}
        {(editing.what === 'list' || editing.what === 'opt out') && (
          <Field
            label={editing.what === 'list' ? 'Where they opted in' : 'Reason'}
            placeholder={editing.what === 'list' ? 'asked at the till on 3 June' : 'by telephone on 3 June'}
            value={stated}
            onChangeText={setStated}
          />
        )}
        {editing.what === 'opt out' && <Words kind="small">Only they can opt in again.</Words>}
        {editing.what === 'erase' && (
          <>
            <Words color="red">
              Messages, events, deliveries, fields and the consent history are deleted. This cannot be undone.
            </Words>
            <Field
              label="Why"
              placeholder="asked for it by letter"
              value={words}
              onChangeText={setWords}
              hint="Shown on the deletion receipt, which holds nothing else about them."
            />
          </>
        )}
        {problem && editing.what !== 'field' && <Failure error={problem} />}
      </View>
    </Dialog>
  );
}

function Provenance({ by, at, client, link }: { by: By; at: string; client: string; link: boolean }) {
  const words = (
    <Words kind="small" {...({ title: exact(at) } as object)}>
      {'set by '}
      <Words kind="smallStrong" color={link && by.loopId ? 'teal' : 'quiet'}>
        {by.words}
      </Words>
      {`, ${whenWords(at)}`}
    </Words>
  );
  return link && by.loopId ? (
    <PlaceLink href={`/${client}/loops/${by.loopId}#${by.stepId ?? ''}`} style={{ minHeight: 24 }}>
      {words}
    </PlaceLink>
  ) : (
    words
  );
}
