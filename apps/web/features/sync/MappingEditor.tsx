import { View } from 'react-native';
import type { FieldsPage } from '@dart-loop/contract';
import {
  ColumnType,
  FACTS,
  type MappedColumn,
  type MappingFinding,
  type TheirColumn,
} from '@dart-loop/core/sync/mapping';
import { mergeName, storedText, writtenText, type MergeName } from '@dart-loop/core/language/writtenMerge';
import { Field } from '../../ui/Field';
import { Menu } from '../../ui/Menu';
import { Empty, StateLine } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

const TYPES = ColumnType.options;

/** Where a column's value comes from, in words. */
export const originWords = ({ origin }: MappedColumn, fields: FieldsPage['fields']): string =>
  origin.from === 'field'
    ? (fields.find(({ key }) => key === origin.field)?.name ?? origin.field)
    : origin.from === 'fact'
      ? `their ${origin.fact}`
      : origin.text === ''
        ? 'a text'
        : `“${writtenText(origin.text, [])}”`;

/**
 * What of a person goes into a column of that name and type: a field or fact that is called so, as far as one
 * is.
 */
export function guessedColumn({ name, type }: TheirColumn, fields: FieldsPage['fields']): MappedColumn {
  const plain = (text: string) => text.toLowerCase().replace(/[^a-z0-9]/g, '');
  const field = fields.find((each) => [each.key, each.name].some((called) => plain(called) === plain(name)));
  const fact = FACTS.find((each) => plain(each) === plain(name));
  return {
    to: name,
    as: type,
    origin: field
      ? { from: 'field', field: field.key }
      : fact
        ? { from: 'fact', fact }
        : { from: 'text', text: '' },
  };
}

/** Their columns at the left, what goes into them at the right, a line each. */
export function MappingEditor({
  mapping,
  fields,
  findings,
  onChange,
  onRead,
  wasRead,
}: {
  mapping: MappedColumn[];
  fields: FieldsPage['fields'];
  findings: MappingFinding[];
  onChange: (next: MappedColumn[]) => void;
  /** Asks the other side for its columns; absent where it cannot say. */
  onRead?: () => void;
  wasRead: boolean;
}) {
  const { colors, wide } = useTheme();
  const names = ['first_name', 'last_name', ...fields.map(({ key }) => key)].map((key) => ({
    path: `person.${key}`,
    words: mergeName(`person.${key}`),
  }));
  const change = (at: number, next: Partial<MappedColumn>) =>
    onChange(mapping.map((each, index) => (index === at ? { ...each, ...next } : each)));
  const missing = findings.filter(({ column }) => !mapping.some(({ to }) => to === column));
  return (
    <View style={{ gap: 8 }}>
      {mapping.length === 0 && (
        <Empty
          title="No column yet"
          words="One line per column of the other system: its name there, and what is sent in it."
        />
      )}
      <View role="list" aria-label="Columns">
        {mapping.map((column, at) => (
          <View
            key={at}
            role="listitem"
            style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 6 }}
          >
            <View
              style={{
                flexDirection: wide ? 'row' : 'column',
                gap: 8,
                alignItems: wide ? 'center' : 'stretch',
              }}
            >
              <View style={{ width: wide ? 200 : undefined }}>
                <Field
                  label={`Column ${at + 1}`}
                  hideLabel
                  placeholder="their column"
                  autoCapitalize="none"
                  value={column.to}
                  onChangeText={(to) => change(at, { to })}
                />
              </View>
              <View
                style={{
                  flexDirection: 'row',
                  alignItems: 'center',
                  flexWrap: 'wrap',
                  flex: wide ? 1 : undefined,
                  columnGap: 4,
                }}
              >
                <Words aria-hidden kind="small">
                  ←
                </Words>
                <Menu
                  label={`What goes into ${column.to || 'it'}: ${originWords(column, fields)}`}
                  title={`What goes into ${column.to || 'it'}`}
                  items={[
                    ...fields.map(({ key, name, type }) => ({
                      key: `field ${key}`,
                      words: name,
                      more: `field, ${type}`,
                      chosen: column.origin.from === 'field' && column.origin.field === key,
                      onChoose: () => change(at, { origin: { from: 'field', field: key } }),
                    })),
                    ...FACTS.map((fact) => ({
                      key: `fact ${fact}`,
                      words: `their ${fact}`,
                      chosen: column.origin.from === 'fact' && column.origin.fact === fact,
                      onChoose: () => change(at, { origin: { from: 'fact', fact } }),
                    })),
                    {
                      key: 'text',
                      words: 'a text',
                      more: 'the same for everybody, or with merge fields',
                      chosen: column.origin.from === 'text',
                      onChoose: () => change(at, { origin: { from: 'text', text: '' } }),
                    },
                  ]}
                >
                  <Words kind="strong" color="teal" style={{ paddingHorizontal: 8 }}>
                    {originWords(column, fields)}
                  </Words>
                </Menu>
                <Menu
                  label={`${column.to || 'It'} goes as ${column.as}. Change`}
                  title={`${column.to || 'It'} takes`}
                  items={TYPES.map((type) => ({
                    key: type,
                    words: type,
                    chosen: type === column.as,
                    onChoose: () => change(at, { as: type }),
                  }))}
                >
                  <Words kind="small" style={{ paddingHorizontal: 8 }}>{`as ${column.as}`}</Words>
                </Menu>
                {column.otherwise === undefined && (
                  <QuietButton
                    title="Default"
                    tone="quiet"
                    label={`Default of ${column.to || 'it'}`}
                    onPress={() => change(at, { otherwise: '' })}
                  />
                )}
                <View style={{ flex: 1 }} />
                <QuietButton
                  title="Remove"
                  tone="quiet"
                  label={`Remove ${column.to || `column ${at + 1}`}`}
                  onPress={() => onChange(mapping.filter((_, index) => index !== at))}
                />
              </View>
            </View>
            {column.origin.from === 'text' && (
              <TextOrigin
                label={`Text of ${column.to || 'it'}`}
                text={column.origin.text}
                names={names}
                onChange={(text) => change(at, { origin: { from: 'text', text } })}
              />
            )}
            {column.otherwise !== undefined && (
              <Field
                label={`Where nothing is known, ${column.to || 'it'} gets`}
                placeholder="nothing"
                value={column.otherwise}
                onChangeText={(otherwise) => change(at, { otherwise })}
              />
            )}
            {findings
              .filter(({ column: name }) => name === column.to)
              .map((finding) => (
                <Finding key={finding.reason} finding={finding} />
              ))}
          </View>
        ))}
      </View>
      {missing.map((finding) => (
        <Finding
          key={finding.column + finding.reason}
          finding={{ ...finding, reason: `${finding.column}: ${finding.reason}` }}
        />
      ))}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        {onRead && (
          <QuietButton
            outlined
            title={wasRead ? 'Read their columns again' : 'Read their columns'}
            onPress={onRead}
          />
        )}
        <QuietButton
          outlined
          title="Add a column"
          onPress={() =>
            onChange([...mapping, { to: '', as: 'text', origin: { from: 'fact', fact: 'name' } }])
          }
        />
      </View>
    </View>
  );
}

function Finding({ finding: { stops, reason } }: { finding: MappingFinding }) {
  return <StateLine tone={stops ? 'failing' : 'warning'}>{reason}</StateLine>;
}

/** A text that goes into a column, its merge fields in brackets. */
function TextOrigin({
  label,
  text,
  names,
  onChange,
}: {
  label: string;
  text: string;
  names: readonly MergeName[];
  onChange: (text: string) => void;
}) {
  return (
    <Field
      label={label}
      hideLabel
      placeholder="ferry customer, or [town]"
      value={writtenText(text, names)}
      onChangeText={(typed) => onChange(storedText(typed, names, text))}
    />
  );
}
