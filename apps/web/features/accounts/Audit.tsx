import { useState } from 'react';
import { View } from 'react-native';
import useSWRInfinite from 'swr/infinite';
import type { AuditRow } from '@dart-loop/contract/accounts';
import { Field } from '../../ui/Field';
import { Json } from '../../ui/Json';
import { Page } from '../../ui/Page';
import { Empty, Failure, Waiting } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { saveFile } from '../../ui/saveFile';
import { useTheme } from '../../ui/theme';
import { exact, whenWords } from '../../ui/time';
import { hint } from '../../ui/onWeb';
import { Words } from '../../ui/Words';
import { get } from '../session/api';
import { useSession } from '../session/useSession';

/** As many lines as the server gives at once. */
const AT_ONCE = 100;
/** More clients than these are sought by typing. */
const MOST_CHOICES = 8;

/** Every change by somebody of the agency: who, what, when, from where, and what it was before. */
export function Audit() {
  const clients = useSession().data?.clients ?? [];
  const [client, setClient] = useState('');
  const [sought, setSought] = useState('');
  const wanted = sought.trim().toLowerCase();
  const offered = clients
    .filter(({ slug, name }) => slug === client || name.toLowerCase().includes(wanted))
    .slice(0, MOST_CHOICES);
  const { data, error, size, setSize, mutate } = useSWRInfinite<AuditRow[], Error>((page, before) => {
    if (before && before.length < AT_ONCE) return null;
    return addressOf(client, page === 0 ? null : (before?.at(-1)?.at ?? null));
  });
  const rows = data?.flat() ?? [];
  const hasMore = (data?.at(-1)?.length ?? 0) === AT_ONCE;
  return (
    <Page
      title="Audit"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="Every change by somebody of the agency. Nothing here can be changed."
      width="wide"
      actions={
        <QuietButton
          outlined
          title="Export CSV"
          disabled={rows.length === 0}
          onPress={() => void exportAll(client)}
        />
      }
    >
      {clients.length > MOST_CHOICES && (
        <View style={{ maxWidth: 420, marginBottom: 8 }}>
          <Field label="Find a client" value={sought} onChangeText={setSought} autoCapitalize="none" />
        </View>
      )}
      {clients.length > 1 && (
        <PickRow
          label="Client"
          value={client}
          options={[['', 'All, and the agency'], ...offered.map(({ slug, name }) => [slug, name] as const)]}
          onChange={setClient}
        />
      )}
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && rows.length === 0 && (
        <Empty title="Nothing yet" words="What somebody changes here from now on is listed, newest first." />
      )}
      <View role="list" aria-label="Changes" style={{ marginTop: 12 }}>
        {rows.map((row) => (
          <Line key={row.id} row={row} />
        ))}
      </View>
      {hasMore && (
        <QuietButton title="Show older changes" tone="quiet" onPress={() => void setSize(size + 1)} />
      )}
    </Page>
  );
}

function addressOf(client: string, before: string | null): string {
  const query = new URLSearchParams({ ...(client && { client }), ...(before && { before }) }).toString();
  return query ? `/audit?${query}` : '/audit';
}

function Line({ row }: { row: AuditRow }) {
  const { colors } = useTheme();
  const [open, setOpen] = useState(false);
  const hasDetail = Object.keys(row.detail).length > 0;
  return (
    <View
      role="listitem"
      style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 2 }}
    >
      <Words>
        <Words kind="strong">{row.by ?? 'The program'}</Words>
        {` ${row.what}`}
      </Words>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 12 }}>
        <Words kind="small" {...hint(exact(row.at))}>
          {[
            row.client ?? 'the agency',
            whenWords(row.at),
            ...(row.address ? [`from ${row.address}`] : []),
          ].join(' · ')}
        </Words>
        {hasDetail && (
          <QuietButton
            title={open ? 'Hide details' : 'Details'}
            label={`${open ? 'Hide details' : 'Details'}: ${row.by ?? 'The program'} ${row.what}`}
            tone="teal"
            onPress={() => setOpen(!open)}
          />
        )}
      </View>
      {open && <Json label={`Details: ${row.what}`} value={row.detail} />}
    </View>
  );
}

/** All of it, asked for page by page, as a file. */
async function exportAll(client: string): Promise<void> {
  const { cellsLine } = await import('@dart-loop/core/people/csvWriting');
  const lines = [cellsLine(['at', 'by', 'client', 'what', 'from', 'detail'])];
  let before: string | null = null;
  for (;;) {
    const rows: AuditRow[] = await get<AuditRow[]>(addressOf(client, before));
    for (const row of rows)
      lines.push(
        cellsLine([
          row.at,
          row.by ?? '',
          row.client ?? '',
          row.what,
          row.address ?? '',
          JSON.stringify(row.detail),
        ]),
      );
    before = rows.at(-1)?.at ?? null;
    if (rows.length < AT_ONCE || !before) break;
  }
  saveFile('audit.csv', new Blob([lines.join('')], { type: 'text/csv' }));
}
