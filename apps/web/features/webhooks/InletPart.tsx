import type { FieldsPage } from '@dart-loop/contract';
import { fieldKey } from '@dart-loop/core/language/slug';
import type { Into, WhoBy, IncomingMapping } from '@dart-loop/core/sync/incoming';
import type { Winner } from '@dart-loop/core/sync/settle';
import { View } from 'react-native';
import { type MenuItem, Menu } from '../../ui/Menu';
import { webStyle } from '../../ui/onWeb';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { type PartLine, withInto, withChangedAt, valueOf, withWho } from './reading';

const intoWords = (into: Into, fields: FieldsPage['fields']): string => {
  if (into.as !== 'field') return into.as;
  const field = fields.find(({ key }) => key === into.field);
  return field ? field.name : `new field ${into.field.replaceAll('_', ' ')}`;
};
const BY: Record<WhoBy, string> = {
  'their id': 'the id it has over there',
  email: 'an email address',
  phone: 'a number',
  id: 'our id',
};
const WINS: Record<Winner, string> = { newest: 'the newest wins', theirs: 'theirs wins', ours: 'ours wins' };
const NAMES = ['first name', 'last name', 'whole name', 'language', 'tags'] as const;
/** A part of what comes: what it is called, what it says in the example, and what becomes of it. */
export function Part({
  line: { path, value, part, who, isChangedAt },
  hasExample,
  mapping,
  fields,
  onChange,
}: {
  line: PartLine;
  hasExample: boolean;
  mapping: IncomingMapping;
  fields: FieldsPage['fields'];
  onChange: (next: IncomingMapping) => void;
}) {
  const { colors, wide } = useTheme();
  const own = fieldKey(path.split('.').at(-1)!);
  const isNew = !fields.some(({ key }) => key === own);
  const into = part ? intoWords(part.into, fields) : isChangedAt ? 'when it was changed' : 'nothing';
  const choose = (next: Into | null) =>
    onChange(withInto(isChangedAt ? withChangedAt(mapping, null) : mapping, path, next));
  const items: MenuItem[] = [
    { key: 'nothing', words: 'nothing', chosen: !part && !isChangedAt, onChoose: () => choose(null) },
    ...fields.map(({ key, name, type }) => ({
      key: `field ${key}`,
      words: name,
      more: `field, ${type}`,
      chosen: part?.into.as === 'field' && part.into.field === key,
      onChoose: () => choose({ as: 'field', field: key, type }),
    })),
    ...(isNew
      ? [
          {
            key: 'new',
            words: `new field ${own.replaceAll('_', ' ')}`,
            chosen: part?.into.as === 'field' && part.into.field === own,
            onChoose: () =>
              choose({
                as: 'field',
                field: own,
                type:
                  typeof value === 'number'
                    ? 'number'
                    : typeof value === 'boolean'
                      ? 'yes/no'
                      : Array.isArray(value)
                        ? 'several of'
                        : 'text',
              }),
          } satisfies MenuItem,
        ]
      : []),
    ...NAMES.map((as) => ({
      key: as,
      words: as,
      chosen: part?.into.as === as,
      onChoose: () => choose({ as }),
    })),
    {
      key: 'changed at',
      words: 'when it was changed',
      more: 'by the other side’s clock, for the newest to win',
      chosen: isChangedAt,
      onChoose: () => onChange(withChangedAt(withInto(mapping, path, null), path)),
    },
  ];
  return (
    <View
      role="listitem"
      style={{
        borderTopWidth: 1,
        borderColor: colors.line,
        paddingVertical: 6,
        flexDirection: wide ? 'row' : 'column',
        columnGap: 8,
        alignItems: wide ? 'center' : 'stretch',
      }}
    >
      <View style={{ width: wide ? 330 : undefined, minWidth: 0 }}>
        <Words kind="code" color="ink" style={webStyle({ wordBreak: 'break-all' })}>
          {path}
        </Words>
        {hasExample && (
          <Words kind="small" style={webStyle({ wordBreak: 'break-word' })}>
            {valueOf(value)}
          </Words>
        )}
      </View>
      <View
        style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', flex: wide ? 1 : undefined }}
      >
        <Words aria-hidden kind="small">
          →
        </Words>
        <Menu label={`What ${path} goes into: ${into}`} title={`What ${path} goes into`} items={items}>
          <Words
            kind={part || isChangedAt ? 'strong' : 'text'}
            color={part || isChangedAt ? 'teal' : 'quiet'}
            style={{ paddingHorizontal: 8 }}
          >
            {into}
          </Words>
        </Menu>
        {part && part.into.as !== 'tags' && (
          <Menu
            label={`Who wins for ${path}: ${WINS[part.wins]}`}
            title="If we have another value"
            items={(part.into.as === 'field'
              ? (['newest', 'theirs', 'ours'] as const)
              : (['theirs', 'ours'] as const)
            ).map((wins) => ({
              key: wins,
              words: WINS[wins],
              chosen: part.wins === wins,
              onChoose: () =>
                onChange({
                  ...mapping,
                  parts: mapping.parts.map((each) => (each.from === path ? { ...each, wins } : each)),
                }),
            }))}
          >
            <Words kind="small" style={{ paddingHorizontal: 8 }}>
              {WINS[part.wins]}
            </Words>
          </Menu>
        )}
        <View style={{ flex: 1 }} />
        <Menu
          label={`${path} ${who ? `says who: ${BY[who]}` : 'who? no'}. Change`}
          title={`Whether ${path} says who it is`}
          items={[
            {
              key: 'no',
              words: 'no',
              chosen: who === null,
              onChoose: () => onChange(withWho(mapping, path, null)),
            },
            ...(Object.keys(BY) as WhoBy[]).map((by) => ({
              key: by,
              words: BY[by],
              chosen: who === by,
              onChoose: () => onChange(withWho(mapping, path, by)),
            })),
          ]}
        >
          <Words kind="small" color={who ? 'ink' : 'quiet'} style={{ paddingHorizontal: 8 }}>
            {who ? `says who: ${BY[who]}` : 'who?'}
          </Words>
        </Menu>
      </View>
    </View>
  );
}
