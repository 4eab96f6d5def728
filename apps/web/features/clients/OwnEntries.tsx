import { useState } from 'react';
import { View } from 'react-native';
import { BRIEF_KEY } from '@dart-loop/contract/clients';
import { ENTRY_TYPES, fileNamed, type EntryType } from '@dart-loop/core/people/client';
import { Field } from '../../ui/Field';
import { Menu } from '../../ui/Menu';
import { QuietButton } from '../../ui/press';
import { Group } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ChosenFile } from '../files/ChosenFile';
import { fileMerge } from '../files/useFiles';

const ENTRY_WORDS: Record<EntryType, string> = {
  text: 'any text',
  phone: 'a telephone number',
  email: 'an email address',
  'page address': 'the address of a page',
  date: 'a date',
  time: 'a time of day',
  number: 'a number',
  file: 'one of the files',
};

/** Facts that only this client has, each under a name that texts merge it by. */
export function OwnEntries({
  client,
  entries,
  types,
  onType,
  hintOf,
  problemOf,
  canChange,
  onChange,
}: {
  client: string;
  entries: [key: string, said: string][];
  types: Readonly<Record<string, EntryType>>;
  onType: (key: string, type: EntryType) => void;
  hintOf: (key: string) => string | null;
  problemOf: (key: string) => string | null;
  canChange: boolean;
  onChange: (key: string, said: string) => void;
}) {
  const [name, setName] = useState('');
  const key = name
    .trim()
    .toLowerCase()
    .replace(/[\s-]+/g, '_');
  const problem =
    name.trim() === '' || BRIEF_KEY.test(key)
      ? entries.some(([each]) => each === key)
        ? 'It is there already.'
        : null
      : 'Letters, digits and underscores, beginning with a letter.';
  const add = () => {
    onChange(key, '');
    setName('');
  };
  return (
    <Group title="Own entries">
      {entries.map(([each, said]) => (
        <View key={each} style={{ gap: 4 }}>
          {types[each] === 'file' && canChange ? (
            <>
              <ChosenFile
                label={each}
                client={client}
                address={said}
                onChoose={(file) => onChange(each, file ? fileMerge(file) : '')}
              />
              {problemOf(each) && (
                <Words kind="small" color="red">
                  {problemOf(each)}
                </Words>
              )}
            </>
          ) : (
            <Field
              label={each}
              hint={hintOf(each) ?? `Left empty, it is removed when the brief is saved.`}
              problem={problemOf(each)}
              value={types[each] === 'file' ? (fileNamed(said)?.replaceAll('_', ' ') ?? said) : said}
              editable={canChange}
              onChangeText={(next) => onChange(each, next)}
            />
          )}
          {canChange && (
            <Menu
              compact
              label={`${each} is ${ENTRY_WORDS[types[each] ?? 'text']}. Change`}
              title={`What ${each} is`}
              items={ENTRY_TYPES.map((type) => ({
                key: type,
                words: ENTRY_WORDS[type],
                chosen: (types[each] ?? 'text') === type,
                onChoose: () => onType(each, type),
              }))}
            >
              <Words kind="small">{`is ${ENTRY_WORDS[types[each] ?? 'text']} ▾`}</Words>
            </Menu>
          )}
        </View>
      ))}
      {canChange && (
        <View style={{ gap: 8, alignItems: 'flex-start' }}>
          <Field
            label="Name of a new entry"
            placeholder="ferry_times"
            autoCapitalize="none"
            value={name}
            problem={problem}
            onChangeText={setName}
            onSubmitEditing={() => key !== '' && problem === null && add()}
          />
          <QuietButton outlined title="Add entry" disabled={key === '' || problem !== null} onPress={add} />
        </View>
      )}
    </Group>
  );
}
