import { View } from 'react-native';
import type { Change, SetStep } from '@dart-loop/core';
import { changeWords } from '@dart-loop/core/engine/steps/index';
import { readChange } from '@dart-loop/core/loops/edit/typedChange';
import { fieldKey } from '@dart-loop/core/language/slug';
import { Menu } from '../../ui/Menu';
import { Words } from '../../ui/Words';
import { RemoveButton } from './ExitRow';
import { EditableText } from './EditableText';

const UNREAD =
  'Write it as “visits plus 1”, “recall = visit +6 weeks, on a working day”, “seen = now”, “note cleared”, “list News joined” or “tag vip on”.';

/** What a `set` sets, one per row: a field's value, a tag on or off. */
export function SetLines({
  step,
  change,
}: {
  step: SetStep;
  change: (path: (string | number)[], value: unknown) => void;
}) {
  const add = (made: Change) => change(['changes'], [...step.changes, made]);
  return (
    <View>
      {step.changes.map((each, index) => (
        <View key={index} style={{ flexDirection: 'row', alignItems: 'center' }}>
          <View
            style={{
              flex: 1,
              minWidth: 0,
              flexDirection: 'row',
              flexWrap: 'wrap',
              alignItems: 'center',
              columnGap: 6,
              minHeight: 28,
            }}
          >
            {each.do === 'field' ? (
              <>
                <EditableText
                  mono
                  multiline={false}
                  value={each.field}
                  label="Field"
                  placeholder="field"
                  onChange={(field) => change(['changes', index, 'field'], fieldKey(field))}
                >
                  <Words kind="strong">{each.field}</Words>
                </EditableText>
                <Words>=</Words>
                <EditableText
                  multiline={false}
                  value={each.value}
                  label={`Value of ${each.field}`}
                  placeholder="a value"
                  onChange={(value) => change(['changes', index, 'value'], value)}
                  merges
                />
              </>
            ) : each.do !== 'add tag' && each.do !== 'remove tag' ? (
              <EditableText
                multiline={false}
                value={changeWords(each)}
                label="What is set"
                placeholder="visits plus 1"
                read={(typed) => (readChange(typed) ? null : UNREAD)}
                onChange={(typed) => {
                  const read = readChange(typed);
                  if (read) change(['changes', index], read);
                }}
              />
            ) : (
              <>
                <Words>tag</Words>
                <EditableText
                  multiline={false}
                  value={each.tag}
                  label="Tag"
                  placeholder="tag"
                  onChange={(tag) => change(['changes', index, 'tag'], tag)}
                >
                  <Words kind="strong">{each.tag}</Words>
                </EditableText>
                <Menu
                  compact
                  label={each.do === 'add tag' ? 'is put on. Change' : 'is taken off. Change'}
                  title={`Tag ${each.tag}`}
                  items={[
                    {
                      key: 'on',
                      words: 'add',
                      chosen: each.do === 'add tag',
                      onChoose: () => change(['changes', index, 'do'], 'add tag'),
                    },
                    {
                      key: 'off',
                      words: 'remove',
                      chosen: each.do === 'remove tag',
                      onChoose: () => change(['changes', index, 'do'], 'remove tag'),
                    },
                  ]}
                >
                  <Words color="quiet">{each.do === 'add tag' ? 'on' : 'off'}</Words>
                </Menu>
              </>
            )}
          </View>
          {step.changes.length > 1 && (
            <RemoveButton
              label={`Remove ${changeWords(each)}`}
              onPress={() =>
                change(
                  ['changes'],
                  step.changes.filter((_, at) => at !== index),
                )
              }
            />
          )}
        </View>
      ))}
      <Menu
        compact
        label="Set one more"
        title="Set"
        items={[
          {
            key: 'field',
            words: 'a field',
            onChoose: () => add({ do: 'field', field: 'note', value: 'yes' }),
          },
          { key: 'tag', words: 'a tag', onChoose: () => add({ do: 'add tag', tag: 'new tag' }) },
          {
            key: 'number',
            words: 'a number, by calculation',
            onChoose: () => add({ do: 'calculate', field: 'visits', by: 'plus', amount: '1' }),
          },
          {
            key: 'day',
            words: 'a day, by calculation',
            onChoose: () => add({ do: 'date', field: 'next_visit', moves: ['+6 weeks'] }),
          },
        ]}
      >
        <Words kind="small" color="teal">
          + one more
        </Words>
      </Menu>
    </View>
  );
}
