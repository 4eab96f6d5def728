import { useState } from 'react';
import { View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import useSWR from 'swr';
import type { FieldRow, TaskView, TypeChangePreview } from '@dart-loop/contract';
import { FieldType } from '@dart-loop/core/people/person';
import { fieldKey } from '@dart-loop/core/language/slug';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton } from '../../ui/press';
import { Failure, Waiting } from '../../ui/parts';
import { PickRow, TickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { grouped } from '../../ui/time';
import { ask, type ApiError } from '../session/api';

export const TYPES = FieldType.options;

export type Told = {
  key: string;
  type: FieldType;
  name: string;
  description: string;
  options: string[];
  personal: boolean;
};

export function EditField({
  field,
  problem,
  onClose,
  onKeep,
}: {
  field?: FieldRow;
  problem: ApiError | null;
  onClose: () => void;
  onKeep: (told: Told) => void;
}) {
  const [name, setName] = useState(field?.name ?? '');
  const [type, setType] = useState<FieldType>(field?.type ?? 'text');
  const [description, setDescription] = useState(field?.description ?? '');
  const [options, setOptions] = useState(field?.options.join('\n') ?? '');
  const [personal, setPersonal] = useState(field?.personal ?? false);
  const listed = type === 'one of' || type === 'several of';
  const key = field?.key ?? fieldKey(name);
  return (
    <Dialog
      title={field ? `Rename ${field.name}` : 'Add field'}
      open
      onClose={onClose}
      foot={
        <ActionButton
          title={field ? 'Save' : 'Add field'}
          disabled={name.trim() === ''}
          onPress={() =>
            onKeep({
              key,
              type,
              name: name.trim(),
              description,
              options: listed
                ? options
                    .split('\n')
                    .map((each) => each.trim())
                    .filter(Boolean)
                : [],
              personal,
            })
          }
        />
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Field
          label="Name"
          value={name}
          onChangeText={setName}
          autoFocus
          problem={problem?.message}
          hint={
            name.trim()
              ? `Loops and files know it as ${key}${field ? ', whatever it is called here' : ''}.`
              : undefined
          }
        />
        {!field && (
          <PickRow
            label="Type"
            value={type}
            options={TYPES.map((each) => [each, each] as const)}
            onChange={setType}
          />
        )}
        {listed && (
          <Field
            label="Choices, one per line; leave empty for any text"
            value={options}
            onChangeText={setOptions}
            multiline
            {...onWeb({ rows: 4 })}
          />
        )}
        <Field label="Description" value={description} onChangeText={setDescription} />
        <TickRow
          label="Personal"
          hint="Personal information, such as health or birthday"
          on={personal}
          onChange={setPersonal}
        />
      </View>
    </Dialog>
  );
}

export function ChangeType({
  path,
  field,
  onClose,
  onBegun,
}: {
  path: string;
  field: FieldRow;
  onClose: () => void;
  onBegun: (words: string) => void;
}) {
  const [type, setType] = useState<FieldType>(field.type);
  const { data, error } = useSWR<TypeChangePreview, ApiError>(
    type === field.type ? null : [`${path}/${field.key}/type`, type],
    ([at, to]: [string, string]) => ask<TypeChangePreview>('POST', at, { type: to, dry: true }),
  );
  const lost = data?.lost.reduce((sum, each) => sum + each.count, 0) ?? 0;
  const begin = async () => {
    await ask<TaskView>('POST', `${path}/${field.key}/type`, { type, dry: false });
    onBegun(`The type of ${field.name} is being changed to ${type}. This can be undone.`);
  };
  return (
    <Dialog
      title={`Type of ${field.name}`}
      open
      onClose={onClose}
      foot={
        data && (
          <ActionButton
            title={lost > 0 ? `Change it, and let ${lost} go` : 'Change the type'}
            onPress={() => void begin()}
          />
        )
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <PickRow
          label="New type"
          value={type}
          options={TYPES.map((each) => [each, each] as const)}
          onChange={setType}
        />
        {type !== field.type && !data && !error && <Waiting words="Checking every value" />}
        {error && <Failure error={error} />}
        {data && (
          <View role="status" style={{ gap: 6 }}>
            <Words>{`${grouped(data.converts)} values convert${lost > 0 ? `, ${grouped(lost)} do not` : ''}.`}</Words>
            {data.lost.map(({ words, reason, count }) => (
              <Words
                key={words}
                kind="small"
                color="ochre"
              >{`◆ “${words}”${count > 1 ? `, ${count} times` : ''}: ${reason}`}</Words>
            ))}
            {lost > 0 && (
              <Words kind="small">
                Values that do not convert stay in each person’s history, and come back when the change is
                undone.
              </Words>
            )}
            {field.loops.length > 0 && (
              <Words kind="small">{`${field.loops.join(', ')} ${field.loops.length === 1 ? 'uses' : 'use'} it; the checks there say where the new type does not fit.`}</Words>
            )}
          </View>
        )}
      </View>
    </Dialog>
  );
}

export function Share({
  field,
  clients,
  onClose,
  onShare,
}: {
  field: FieldRow;
  clients: { slug: string; name: string }[];
  onClose: () => void;
  onShare: (slugs: string[]) => void;
}) {
  const [chosen, setChosen] = useState<string[]>([]);
  return (
    <Dialog
      title={`Copy ${field.name} to other clients`}
      open
      onClose={onClose}
      foot={
        <ActionButton
          title={chosen.length > 0 ? `Copy to ${chosen.length}` : 'Share with all clients'}
          onPress={() => onShare(chosen)}
        />
      }
    >
      <View style={{ padding: 12, gap: 4 }}>
        <Words kind="small">
          It becomes a field of the agency’s. Where a client has one of that key, its name, description and
          choices become these; its type stays, and the difference is shown there.
        </Words>
        {clients.map((each) => (
          <TickRow
            key={each.slug}
            label={each.name}
            on={chosen.includes(each.slug)}
            onChange={(on) =>
              setChosen(on ? [...chosen, each.slug] : chosen.filter((slug) => slug !== each.slug))
            }
          />
        ))}
      </View>
    </Dialog>
  );
}
