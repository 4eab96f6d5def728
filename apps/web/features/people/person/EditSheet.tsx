import { useState } from 'react';
import { View } from 'react-native';
import type { EditPerson, PeopleVocabulary, PersonPage } from '@dart-loop/contract';
import { Field } from '../../../ui/Field';
import { Dialog } from '../../../ui/Menu';
import { Failure } from '../../../ui/parts';
import { ActionButton } from '../../../ui/press';
import { PickRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import type { ApiError } from '../../session/api';
import type { Editing } from './editing';

/** One thing about a person that is changed. */
export function EditSheet({
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
      action: 'Save name',
      ready: first.trim() !== '' || last.trim() !== '',
      done: () => onEdit('Name saved.', { firstName: first, lastName: last }),
    },
    field: {
      title: fact ? `Change ${fact.name}` : 'Add field',
      action: words.trim() === '' && fact ? `Clear ${fact.name}` : 'Save',
      ready: field !== '' && (fact !== undefined || words.trim() !== ''),
      done: () => onEdit(`${name} saved.`, { fields: { [field]: words.trim() === '' ? null : words } }),
    },
    tag: {
      title: 'Add tag',
      action: 'Add tag',
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
      action: 'Opt out',
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
                hint={chosen ? `Saved as ${chosen.type}.` : undefined}
              />
            )}
          </>
        )}
        {(editing.what === 'tag' || editing.what === 'list') && (
          <>
            <Field
              label={editing.what === 'tag' ? 'Tag' : 'List'}
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
              label="Reason"
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
