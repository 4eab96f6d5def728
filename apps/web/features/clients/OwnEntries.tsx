import { useState } from 'react';
import { View } from 'react-native';
import { BRIEF_KEY } from '@dart-loop/contract/clients';
import { Field } from '../../ui/Field';
import { QuietButton } from '../../ui/press';
import { Group } from '../../ui/rows';

/** Facts that only this client has, each under a name that texts merge it by. */
export function OwnEntries({
  entries,
  hintOf,
  problemOf,
  canChange,
  onChange,
}: {
  entries: [key: string, said: string][];
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
        <Field
          key={each}
          label={each}
          hint={hintOf(each) ?? `Left empty, it is removed when the brief is saved.`}
          problem={problemOf(each)}
          value={said}
          editable={canChange}
          onChangeText={(next) => onChange(each, next)}
        />
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
