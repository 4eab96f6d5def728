import { memo, type ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import type { PersonRow } from '@dart-loop/contract';
import { Avatar } from '../../../ui/Avatar';
import { hint } from '../../../ui/onWeb';
import { ChannelMark, Inset } from '../../../ui/parts';
import { PlaceLink } from '../../../ui/press';
import { TickMark } from '../../../ui/rows';
import { useTheme } from '../../../ui/theme';
import { ago, exact } from '../../../ui/time';
import { Words } from '../../../ui/Words';

/** Tags that are shown in the table; the person's page has them all. */
const MOST_TAGS = 2;
const TICK_WIDTH = 44;

interface Columns {
  keys: readonly string[];
  name: (key: string) => string;
}

/** The names of the table's columns, on a wide screen. */
export function ColumnHeads({ columns, chooses }: { columns: Columns; chooses: boolean }) {
  return (
    <View
      aria-hidden
      style={{ flexDirection: 'row', paddingLeft: chooses ? TICK_WIDTH : 0, paddingBottom: 6 }}
    >
      <Cells
        name={<Head words="Name" />}
        channels={<Head words="Channels" />}
        facts={
          columns.keys.length > 0
            ? columns.keys.map((key) => <Head key={key} words={columns.name(key)} />)
            : [<Head key="facts" words="Fields" />]
        }
        tags={<Head words="Tags" />}
        seen={<Head words="Last seen" />}
      />
    </View>
  );
}

function Head({ words }: { words: string }) {
  return (
    <Words kind="small" numberOfLines={1}>
      {words}
    </Words>
  );
}

/** One row of the table: the same widths for its head and every person. */
function Cells(cells: {
  name: ReactNode;
  channels: ReactNode;
  facts: ReactNode[];
  tags: ReactNode;
  seen: ReactNode;
}) {
  return (
    <View style={{ flex: 1, flexDirection: 'row', alignItems: 'center', gap: 16 }}>
      <View style={{ flex: 3, minWidth: 0 }}>{cells.name}</View>
      <View style={{ width: 92, flexDirection: 'row', gap: 4, overflow: 'hidden' }}>{cells.channels}</View>
      {cells.facts.map((fact, index) => (
        <View key={index} style={{ flex: cells.facts.length === 1 ? 5 : 2, minWidth: 0 }}>
          {fact}
        </View>
      ))}
      <View style={{ flex: 2, minWidth: 0, flexDirection: 'row', gap: 4, overflow: 'hidden' }}>
        {cells.tags}
      </View>
      <View style={{ width: 92, alignItems: 'flex-end' }}>{cells.seen}</View>
    </View>
  );
}

/** A person in the list. Drawn again only when something of its own changes. */
export const PersonLine = memo(function PersonLine({
  row,
  client,
  columns,
  chosen,
  onChoose,
}: {
  row: PersonRow;
  client: string;
  columns: Columns;
  /** Null while nobody is being chosen. */
  chosen: boolean | null;
  onChoose: (id: string) => void;
}) {
  const { colors, wide } = useTheme();
  return (
    <View style={{ flexDirection: 'row', alignItems: 'center', borderTopWidth: 1, borderColor: colors.line }}>
      {chosen !== null && (
        <Pressable
          role="checkbox"
          aria-checked={chosen}
          aria-label={`Select ${row.name}`}
          onPress={() => onChoose(row.id)}
          style={{ width: TICK_WIDTH, height: 44, justifyContent: 'center' }}
        >
          <TickMark on={chosen} />
        </Pressable>
      )}
      <PlaceLink
        href={`/${client}/people/${row.id}`}
        style={{ flex: 1, borderRadius: 0, minHeight: wide ? 48 : 64, paddingVertical: wide ? 4 : 10 }}
      >
        {wide ? <TableRow row={row} columns={columns} /> : <PhoneRow row={row} columns={columns} />}
      </PlaceLink>
    </View>
  );
});

function TableRow({ row, columns }: { row: PersonRow; columns: Columns }) {
  const facts =
    columns.keys.length > 0
      ? columns.keys.map((key) => row.cells[key] ?? '–')
      : [row.facts.join(' · ') || '–'];
  return (
    <Cells
      name={
        <View style={{ flexDirection: 'row', gap: 10, alignItems: 'center' }}>
          <Avatar name={row.name} />
          <Words kind="smallStrong" numberOfLines={1} style={{ flexShrink: 1, fontSize: 15 }}>
            {row.name}
          </Words>
        </View>
      }
      channels={row.channels.map((channel) => (
        <ChannelMark key={channel} channel={channel} />
      ))}
      facts={facts.map((fact, index) => (
        <Words key={index} kind="small" color="ink" numberOfLines={1}>
          {fact}
        </Words>
      ))}
      tags={
        <>
          {row.tags.slice(0, MOST_TAGS).map((tag) => (
            <Inset key={tag} words={tag} />
          ))}
          {row.tags.length > MOST_TAGS && <Words kind="small">{`+${row.tags.length - MOST_TAGS}`}</Words>}
        </>
      }
      seen={
        <Words kind="code" {...hint(exact(row.lastSeenAt))}>
          {ago(row.lastSeenAt)}
        </Words>
      }
    />
  );
}

function PhoneRow({ row, columns }: { row: PersonRow; columns: Columns }) {
  const facts =
    columns.keys.length > 0
      ? columns.keys.flatMap((key) => (row.cells[key] ? [`${columns.name(key)} ${row.cells[key]}`] : []))
      : row.facts;
  return (
    <View style={{ flexDirection: 'row', gap: 10, alignItems: 'center' }}>
      <Avatar name={row.name} />
      <View style={{ flex: 1, minWidth: 0 }}>
        <View style={{ flexDirection: 'row', gap: 8, alignItems: 'center' }}>
          <Words kind="strong" numberOfLines={1} style={{ flexShrink: 1 }}>
            {row.name}
          </Words>
          {row.channels.map((channel) => (
            <ChannelMark key={channel} channel={channel} />
          ))}
          <View style={{ flex: 1 }} />
          <Words kind="code" {...hint(exact(row.lastSeenAt))}>
            {ago(row.lastSeenAt)}
          </Words>
        </View>
        <Words kind="small" numberOfLines={1}>
          {[...facts, ...row.tags].join(' · ') || 'no fields yet'}
        </Words>
      </View>
    </View>
  );
}
