import { useEffect, useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import type { ActionPreview, PeopleAction, PeopleVocabulary, Selection, TaskView } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton, QuietButton } from '../../ui/press';
import { Failure, Waiting } from '../../ui/parts';
import { PickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { grouped } from '../../ui/time';
import { counted } from '@dart-loop/core/language/counted';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

type Doing = PeopleAction['do'];
const DOINGS: readonly (readonly [Doing, string])[] = [
  ['add tag', 'Add tag'],
  ['remove tag', 'Remove a tag'],
  ['set', 'Set a field'],
  ['clear', 'Clear a field'],
  ['join list', 'Add to a list'],
  ['leave list', 'Remove from a list'],
  ['start loop', 'Start a loop'],
  ['send to', 'Send to a destination'],
  ['erase', 'Delete'],
];

/** The action as far as it is told; null while something is missing. */
export function actionOf(doing: Doing, what: string, more: string): PeopleAction | null {
  if (what.trim() === '') return null;
  switch (doing) {
    case 'add tag':
    case 'remove tag':
      return { do: doing, tag: what };
    case 'set':
      return more.trim() === '' ? null : { do: doing, field: what, value: more };
    case 'clear':
      return { do: doing, field: what };
    case 'join list':
      return more.trim() === '' ? null : { do: doing, list: what, stated: more };
    case 'leave list':
      return { do: doing, list: what };
    case 'start loop':
      return { do: doing, loopId: what };
    case 'send to':
      return { do: doing, destinationId: what };
    case 'erase':
      return { do: doing, reason: what };
  }
}

/** Something that is done with many people: told, previewed, and then begun. */
export function ActionSheet({
  client,
  people,
  total,
  known,
  open,
  onClose,
  onBegun,
}: {
  client: string;
  people: Selection;
  total: number;
  known: PeopleVocabulary | undefined;
  open: boolean;
  onClose: () => void;
  onBegun: () => void;
}) {
  const { mutate } = useSWRConfig();
  const [doing, setDoing] = useState<Doing>('add tag');
  const [what, setWhat] = useState('');
  const [more, setMore] = useState('');
  const [preview, setPreview] = useState<ActionPreview | null>(null);
  const { act, failure: error, forget } = useAct();
  const action = actionOf(doing, what, more);
  const asked = JSON.stringify([people, action]);
  useEffect(() => {
    setPreview(null);
    forget();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is asked alone begins it anew
  }, [asked]);
  const post = (isPreview: boolean) =>
    act(async () => {
      const answer = await ask<TaskView | ActionPreview>('POST', `/clients/${client}/people/actions`, {
        people,
        action,
        preview: isPreview,
      });
      if (isPreview) return setPreview(answer as ActionPreview);
      await mutate(`/clients/${client}/tasks`);
      onBegun();
    });
  const many = counted(total, 'person', 'people');
  const names = doing.includes('tag')
    ? (known?.tags ?? [])
    : doing.includes('list')
      ? (known?.lists ?? [])
      : [];
  return (
    <Dialog
      title={`Change ${many}`}
      open={open}
      onClose={onClose}
      foot={
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
          {preview ? (
            <ActionButton
              title={
                doing === 'erase'
                  ? `Delete ${many} permanently`
                  : `${DOINGS.find(([key]) => key === doing)![1]} for ${many}`
              }
              onPress={() => void post(false)}
            />
          ) : (
            <QuietButton outlined title="Preview" disabled={!action} onPress={() => void post(true)} />
          )}
        </View>
      }
    >
      <View style={{ padding: 12, gap: 14 }}>
        <PickRow
          label="What"
          value={doing}
          options={DOINGS.filter(([key]) => key !== 'send to' || (known?.destinations.length ?? 0) > 0)}
          onChange={(next) => {
            setDoing(next);
            setWhat('');
            setMore('');
          }}
        />
        {(doing === 'add tag' ||
          doing === 'remove tag' ||
          doing === 'join list' ||
          doing === 'leave list') && (
          <>
            <Field label={doing.includes('tag') ? 'The tag' : 'List'} value={what} onChangeText={setWhat} />
            {names.length > 0 && (
              <PickRow
                label="Already known"
                value={what}
                options={names.slice(0, 12).map((name) => [name, name] as const)}
                onChange={setWhat}
              />
            )}
          </>
        )}
        {(doing === 'set' || doing === 'clear') && (
          <PickRow
            label="Field"
            value={what}
            options={(known?.fields ?? []).map(({ key, name }) => [key, name] as const)}
            onChange={setWhat}
          />
        )}
        {doing === 'set' && (
          <Field label="Value" value={more} onChangeText={setMore} problem={error?.message} />
        )}
        {doing === 'join list' && (
          <Field
            label="Where they opted in"
            placeholder="paper form, spring fair 2026"
            value={more}
            onChangeText={setMore}
            hint="Recorded with each opt-in."
          />
        )}
        {doing === 'start loop' && (
          <PickRow
            label="The loop"
            value={what}
            options={(known?.loops ?? [])
              .filter((loop) => loop.live)
              .map(({ id, name }) => [id, name] as const)}
            onChange={setWhat}
          />
        )}
        {doing === 'send to' && (
          <PickRow
            label="The destination"
            value={what}
            options={(known?.destinations ?? []).map(({ id, name }) => [id, name] as const)}
            onChange={setWhat}
          />
        )}
        {doing === 'erase' && (
          <Field
            label="Reason"
            placeholder="asked for it by letter"
            value={what}
            onChangeText={setWhat}
            hint="Shown on the deletion receipts, which hold nothing else about the people."
          />
        )}
        {error && doing !== 'set' && <Failure error={error} />}
        {preview && (
          <View role="status" style={{ gap: 4 }}>
            <Words kind="strong">{`${grouped(preview.total)} ${preview.total === 1 ? 'person' : 'people'}`}</Words>
            {preview.words.map((words) => (
              <Words key={words} kind="small" color={doing === 'erase' ? 'red' : 'ink'}>
                {words}
              </Words>
            ))}
          </View>
        )}
        {!known && <Waiting />}
      </View>
    </Dialog>
  );
}
