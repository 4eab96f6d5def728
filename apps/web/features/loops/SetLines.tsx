import { View } from 'react-native';
import type { Change, SetStep } from '@dart-loop/core';
import { changeWords } from '@dart-loop/core/engine/steps/index';
import { fieldKey } from '@dart-loop/core/language/slug';
import { Menu } from '../../ui/Menu';
import { Words } from '../../ui/Words';
import { EditableText, type MergeField } from './EditableText';

/** What a `set` sets, one per row: a field's value, a tag on or off. */
export function SetLines({
  step,
  change,
  fields,
}: {
  step: SetStep;
  change: (path: (string | number)[], value: unknown) => void;
  fields: readonly MergeField[];
}) {
  const add = (made: Change) => change(['changes'], [...step.changes, made]);
  return (
    <View>
      {step.changes.map((each, index) => (
        <View
          key={index}
          style={{
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
                fields={fields}
              />
            </>
          ) : each.do !== 'add tag' && each.do !== 'remove tag' ? (
            <Words>{changeWords(each)}</Words>
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
                  ...(step.changes.length > 1
                    ? [
                        {
                          key: 'x',
                          words: 'Remove this line',
                          tone: 'red' as const,
                          onChoose: () =>
                            change(
                              ['changes'],
                              step.changes.filter((_, at) => at !== index),
                            ),
                        },
                      ]
                    : []),
                ]}
              >
                <Words color="quiet">{each.do === 'add tag' ? 'on' : 'off'}</Words>
              </Menu>
            </>
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
        ]}
      >
        <Words kind="small" color="teal">
          + one more
        </Words>
      </Menu>
    </View>
  );
}
