import { router, useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { By, EditPerson, PeopleVocabulary, PersonPage } from '@dart-loop/contract';
import { Icon } from '../../../ui/Icon';
import { Menu } from '../../../ui/Menu';
import { hint } from '../../../ui/onWeb';
import { Page } from '../../../ui/Page';
import { Failure, Notice, Waiting } from '../../../ui/parts';
import { useTheme } from '../../../ui/theme';
import { exact, whenWords } from '../../../ui/time';
import { Words } from '../../../ui/Words';
import { ask, type ApiError } from '../../session/api';
import { useLeaving, useMay } from '../../session/useSession';
import { Alike } from './Alike';
import type { Editing } from './editing';
import { EditSheet } from './EditSheet';
import { Identities } from './Identities';
import { MergeSheet } from './MergeSheet';
import { NamedList } from './NamedList';
import { PersonFields } from './PersonFields';
import { Provenance } from './Provenance';
import { Timeline } from './Timeline';
import { useAct } from '../../session/useAct';

/**
 * One person: fields with who set them and when, tags, lists, identities, others who may be the same, and
 * everything that happened on one timeline.
 */
export function Person() {
  const { wide } = useTheme();
  const { client, person } = useLocalSearchParams<{ client: string; person: string }>();
  const path = `/clients/${client}/people/${person}`;
  const { mutate: mutateAll } = useSWRConfig();
  const { data, error, mutate } = useSWR<PersonPage, Error>(path);
  const may = useMay();
  const known = useSWR<PeopleVocabulary, Error>(
    may('see people') ? `/clients/${client}/people/vocabulary` : null,
  ).data;
  const [editing, setEditing] = useState<Editing | null>(null);
  const [notice, setNotice] = useState<string | null>(null);
  const { act, failure, forget } = useAct();
  const problem = failure as ApiError | null;
  const seesLoops = may('see loops');
  const changes = may('change people');
  const manages = may('manage people');
  const close = () => {
    setEditing(null);
    forget();
  };
  const keep = (words: string, work: () => Promise<PersonPage | void>) =>
    act(async () => {
      const page = await work();
      await mutate(page ?? undefined, { revalidate: !page });
      setNotice(words);
      close();
    });
  const edit = (words: string, body: EditPerson) => keep(words, () => ask<PersonPage>('PUT', path, body));
  const source = (by: By | null, at: string | null) =>
    by && at ? <Provenance by={by} at={at} client={client} link={seesLoops} /> : null;
  const leaving = useLeaving(path);
  const erase = (reason: string) =>
    act(() =>
      leaving(async () => {
        await ask('POST', `/clients/${client}/people/actions`, {
          people: { ids: [person] },
          action: { do: 'erase', reason },
        });
        router.replace(`/${client}/people`);
        await mutateAll(`/clients/${client}/tasks`);
      }),
    );

  return (
    <Page
      title={data?.name ?? 'Person'}
      width="wide"
      back={
        may('see people')
          ? { href: `/${client}/people`, words: 'People' }
          : { href: '/inbox', words: 'Inbox' }
      }
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
            <View style={{ alignItems: 'center' }}>
              <Icon name="menu" />
            </View>
          </Menu>
        )
      }
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {notice && <Notice tone="quiet">{notice}</Notice>}
      {data && (
        <>
          <Words kind="small" {...hint(exact(data.createdAt))}>
            {[
              `First met ${whenWords(data.createdAt)}, last ${whenWords(data.lastSeenAt)}.`,
              data.source && `Came from ${data.source}.`,
            ]
              .filter(Boolean)
              .join(' ')}
          </Words>
          {manages && (
            <Alike
              client={client}
              path={path}
              data={data}
              keep={keep}
              onMerge={(other) => setEditing({ what: 'merge', other })}
            />
          )}
          <View
            style={{
              flexDirection: wide ? 'row' : 'column',
              gap: wide ? 40 : 28,
              marginTop: 12,
              alignItems: 'flex-start',
            }}
          >
            <View style={{ gap: 28, width: wide ? undefined : '100%', flex: wide ? 1 : undefined }}>
              <PersonFields
                facts={data.facts}
                source={source}
                change={changes ? (key) => setEditing({ what: 'field', key }) : undefined}
              />
              <NamedList
                title="Tags"
                label="Add tag"
                rows={data.tags.map(({ tag, at, by }) => ({ name: tag, at, by }))}
                source={source}
                add={changes ? () => setEditing({ what: 'tag' }) : undefined}
                remove={
                  changes ? (tag) => void edit(`Removed the tag ${tag}.`, { tagsOff: [tag] }) : undefined
                }
              />
              <NamedList
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
              <Identities client={client} identities={data.identities} />
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
