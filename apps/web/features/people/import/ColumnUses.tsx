import { View } from 'react-native';
import type { PeopleVocabulary, UploadPage } from '@dart-loop/contract';
import { keyOf, type ColumnUse } from '@dart-loop/core/people/columnUse';
import { fieldKey } from '@dart-loop/core/language/slug';
import { FieldType } from '@dart-loop/core/people/person';
import { Menu } from '../../../ui/Menu';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';

/** What a column is for, in words. */
export function wordsOfUse(use: ColumnUse, known: PeopleVocabulary | undefined): string {
  switch (use.as) {
    case 'nothing':
      return 'leave out';
    case 'field': {
      const field = known?.fields.find((each) => each.key === use.field);
      return field
        ? `${field.name} (${field.type})`
        : `new field ${use.field.replaceAll('_', ' ')} (${use.type})`;
    }
    case 'address':
    case 'handle':
    case 'consent':
      return `${{ address: 'address', handle: 'handle', consent: 'consent' }[use.as]} on ${known?.lines.find((line) => line.key === use.line)?.name ?? use.line}`;
    default:
      return use.as;
  }
}

/** What each column of the file is for. */
export function ColumnUses({
  file,
  uses,
  setUses,
  known,
}: {
  file: UploadPage;
  uses: ColumnUse[];
  setUses: (next: ColumnUse[]) => void;
  known: PeopleVocabulary | undefined;
}) {
  const { colors } = useTheme();
  return (
    <View>
      <Words kind="heading">Columns</Words>
      {file.columns.map((column, at) => {
        const use = uses[at]!;
        const twice =
          use.as !== 'nothing' && uses.some((other, index) => index !== at && keyOf(other) === keyOf(use));
        return (
          <View
            key={at}
            style={{
              borderTopWidth: 1,
              borderColor: colors.line,
              paddingVertical: 6,
              flexDirection: 'row',
              flexWrap: 'wrap',
              alignItems: 'center',
              columnGap: 12,
            }}
          >
            <View style={{ flexGrow: 1, flexBasis: 180 }}>
              <Words kind="strong" numberOfLines={1}>
                {column.name || `column ${at + 1}`}
              </Words>
              <Words kind="small" numberOfLines={1}>
                {column.samples.join(' · ') || 'empty'}
              </Words>
            </View>
            <UseMenu
              column={column.name || `column ${at + 1}`}
              use={use}
              known={known}
              onChoose={(next) => setUses(uses.map((each, index) => (index === at ? next : each)))}
            />
            {twice && (
              <Words kind="small" color="red" role="alert">
                Another column is for the same.
              </Words>
            )}
          </View>
        );
      })}
    </View>
  );
}

const TYPES = FieldType.options.filter((type) => type !== 'file');

/** What a column is for: one of what there is, or a field that is made of it. */
function UseMenu({
  column,
  use,
  known,
  onChoose,
}: {
  column: string;
  use: ColumnUse;
  known: PeopleVocabulary | undefined;
  onChoose: (next: ColumnUse) => void;
}) {
  const key = fieldKey(column);
  const isNew = use.as === 'field' && !known?.fields.some((field) => field.key === use.field);
  const chosen = keyOf(use);
  const item = (next: ColumnUse, words: string, more?: string) => ({
    key: words,
    words,
    more,
    chosen: keyOf(next) === chosen,
    onChoose: () => onChoose(next),
  });
  return (
    <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 4 }}>
      <Menu
        label={`${column}: ${wordsOfUse(use, known)}`}
        title={`What “${column}” is`}
        items={[
          item({ as: 'nothing' }, 'Leave out'),
          ...(
            [
              'first name',
              'last name',
              'whole name',
              'language',
              'tags',
              'lists',
              'source',
              'first met',
              'last seen',
              'person id',
            ] as const
          ).map((as) => item({ as }, as[0]!.toUpperCase() + as.slice(1))),
          ...(known?.fields ?? []).map((field) =>
            item({ as: 'field', field: field.key, type: field.type }, field.name, field.type),
          ),
          ...(known?.lines ?? []).flatMap((line) => [
            item(
              { as: 'address', line: line.key },
              `Address on ${line.name}`,
              line.channel === 'sms' || line.channel === 'whatsapp'
                ? 'a telephone number'
                : 'the id that the channel gives',
            ),
            item({ as: 'consent', line: line.key }, `Consent on ${line.name}`, '“opted in” or “opted out”'),
          ]),
          ...(known?.fields.some((field) => field.key === key)
            ? []
            : [item({ as: 'field', field: key, type: 'text' }, `A new field, ${key.replaceAll('_', ' ')}`)]),
        ]}
      >
        <Words kind="strong" color={use.as === 'nothing' ? 'quiet' : 'teal'} style={{ paddingHorizontal: 6 }}>
          {wordsOfUse(use, known)}
        </Words>
      </Menu>
      {isNew && (
        <Menu
          label={`${column} is ${use.type}: change type`}
          title="Type"
          compact
          items={TYPES.map((type) => ({
            key: type,
            words: type,
            chosen: type === use.type,
            onChoose: () => onChoose({ ...use, type }),
          }))}
        >
          <Words kind="small" color="teal" style={{ paddingHorizontal: 6 }}>
            change type
          </Words>
        </Menu>
      )}
    </View>
  );
}
