import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import useSWR from 'swr';
import type { ListRow } from '@dart-loop/contract';
import { conditionWords } from '@dart-loop/core/people/conditionWords';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton, PlaceLink, QuietButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { Empty, Failure, Waiting } from '../../ui/parts';
import { TickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { grouped, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useMay } from '../session/useSession';

/** A client's lists: what people have agreed to, word for word, and how many stand on each. */
export function Lists() {
  const { colors } = useTheme();
  const { client } = useLocalSearchParams<{ client: string }>();
  const path = `/clients/${client}/lists`;
  const manages = useMay()('manage people');
  const { data, error, mutate } = useSWR<ListRow[], Error>(path);
  const [editing, setEditing] = useState<ListRow | 'new' | null>(null);
  return (
    <Page
      title="Lists"
      back={{ href: `/${client}/people`, words: 'People', onPhoneOnly: true }}
      actions={
        manages ? <QuietButton outlined title="Add list" onPress={() => setEditing('new')} /> : undefined
      }
      about="What people subscribe to. Every wording is kept, with who agreed to which."
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="No lists yet"
          words="Add one here, and let a loop add people who agree to its wording."
        />
      )}
      {data?.map((list) => (
        <View
          key={list.name}
          style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 4 }}
        >
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 12 }}>
            <Words kind="strong">{list.name}</Words>
            <PlaceLink
              href={`/${client}/people?where=${encodeURIComponent(conditionWords({ list: list.name }))}`}
              style={{ minHeight: 32 }}
            >
              <Words
                kind="smallStrong"
                color="teal"
              >{`${grouped(list.members)} ${list.members === 1 ? 'person' : 'people'}`}</Words>
            </PlaceLink>
            <Words kind="small">{list.double ? 'confirmed by each person' : 'joined at once'}</Words>
            <View style={{ flex: 1 }} />
            {manages && (
              <QuietButton
                title="Change"
                tone="teal"
                label={`Change ${list.name}`}
                onPress={() => setEditing(list)}
              />
            )}
          </View>
          {list.description !== '' && <Words kind="small">{list.description}</Words>}
          {list.wordings.length === 0 ? (
            <Words kind="small" color="ochre">
              ◆ It has no wording yet: the ledger cannot say what people agree to.
            </Words>
          ) : (
            list.wordings.map(({ version, words, at, by }, index) => (
              <Words key={version} kind="small" color={index === 0 ? 'ink' : 'quiet'}>
                {`Wording ${version}: “${words}” ${whenWords(at)}${by ? `, by ${by}` : ''}`}
              </Words>
            ))
          )}
        </View>
      ))}
      {editing && (
        <EditList
          list={editing === 'new' ? null : editing}
          onClose={() => setEditing(null)}
          onKeep={async (list) => {
            await mutate(await ask<ListRow[]>('PUT', path, { list }), { revalidate: false });
            setEditing(null);
          }}
        />
      )}
    </Page>
  );
}

function EditList({
  list,
  onClose,
  onKeep,
}: {
  list: ListRow | null;
  onClose: () => void;
  onKeep: (list: object) => Promise<void>;
}) {
  const [name, setName] = useState(list?.name ?? '');
  const [wording, setWording] = useState(list?.wording ?? '');
  const [description, setDescription] = useState(list?.description ?? '');
  const [double, setDouble] = useState(list?.double ?? false);
  const { act, problem } = useAct();
  const keep = () => act(() => onKeep({ name: name.trim(), description, double, wording }));
  return (
    <Dialog
      title={list ? list.name : 'Add list'}
      open
      onClose={onClose}
      foot={
        <ActionButton
          title={list ? 'Save list' : 'Add list'}
          disabled={name.trim() === ''}
          onPress={() => void keep()}
        />
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        {!list && (
          <Field label="Name" placeholder="Workshop news" value={name} onChangeText={setName} autoFocus />
        )}
        <Field
          label="Wording people agree to"
          placeholder="A letter each month about our workshops."
          value={wording}
          onChangeText={setWording}
          multiline
          problem={problem}
          hint={
            list && list.wording !== wording
              ? `Saved as wording ${(list.wordings[0]?.version ?? 0) + 1}; earlier wordings are kept.`
              : undefined
          }
          {...onWeb({ rows: 3 })}
        />
        <TickRow
          label="Ask each person to confirm"
          hint="They are sent the wording, and are on the list once they have answered yes"
          on={double}
          onChange={setDouble}
        />
        <Field label="Note for the team" value={description} onChangeText={setDescription} />
      </View>
    </Dialog>
  );
}
