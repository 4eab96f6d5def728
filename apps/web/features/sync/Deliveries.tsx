import { useState } from 'react';
import { View } from 'react-native';
import { hint, webStyle } from '../../ui/onWeb';
import useSWR from 'swr';
import useSWRInfinite from 'swr/infinite';
import type { CallView, DeliveryPage, DeliveryRow } from '@dart-loop/contract';
import { Dialog } from '../../ui/Menu';
import { Failure, StateLine, Waiting } from '../../ui/parts';
import { PlaceLink, QuietButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { exact, grouped, whenWords } from '../../ui/time';
import { Json } from '../../ui/Json';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';

const SHOWN = 50;
type Shelf = 'all' | 'waiting' | 'shelf';

const CAUSE = {
  field: 'field',
  tag: 'tag',
  list: 'list',
  loop: 'the loop',
  run: 'finished',
  booking: 'booking in',
  webhook: 'ours goes before what came by',
} as const;
/** "field:town" as it is read. */
const causeWords = (cause: string) => {
  const [kind, ...rest] = cause.split(':');
  return kind! in CAUSE ? `${CAUSE[kind as keyof typeof CAUSE]} ${rest.join(':')}` : cause;
};

/** How one delivery stands. */
function stateOf({ status, isTest, outcome, attempts }: DeliveryRow): {
  tone: 'failing' | 'warning' | 'quiet' | 'ahead';
  words: string;
} {
  if (isTest)
    return status === 'done'
      ? { tone: 'quiet', words: `tried: ${outcome}` }
      : { tone: 'failing', words: `tried: ${outcome}` };
  if (status === 'done') return { tone: 'quiet', words: outcome ?? '' };
  if (status === 'left out') return { tone: 'quiet', words: `left out: ${outcome}` };
  if (status === 'shelf') return { tone: 'failing', words: `failed: ${outcome}` };
  return attempts === 0
    ? { tone: 'ahead', words: 'waits' }
    : { tone: 'warning', words: `waits, tried ${attempts === 1 ? 'once' : `${attempts} times`}: ${outcome}` };
}

/** What went out and what came back, newest first; what could not be delivered is replayed here. */
export function Deliveries({
  path,
  client,
  shelf,
  onReplayed,
}: {
  path: string;
  client: string;
  shelf: number;
  onReplayed: () => void;
}) {
  const { colors } = useTheme();
  const [of, setOf] = useState<Shelf>('all');
  const [open, setOpen] = useState<string | null>(null);
  const at = `${path}/deliveries?of=${of}`;
  // The newest are kept current; earlier ones are asked for as they are wished for.
  const head = useSWR<DeliveryRow[], Error>(at);
  const last = head.data?.length === SHOWN ? head.data.at(-1)!.n : null;
  const earlier = useSWRInfinite<DeliveryRow[], Error>(
    (index: number, before: DeliveryRow[] | null) => {
      const from = index === 0 ? last : before?.length === SHOWN ? before.at(-1)!.n : null;
      return from === null ? null : `${at}&before=${from}`;
    },
    { initialSize: 0, revalidateFirstPage: false, revalidateOnFocus: false },
  );
  const more = earlier.size > 0 ? (earlier.data ?? []) : [];
  const rows = head.data && [...head.data, ...more.flat()];
  const replay = async (ids: 'all' | string[]) => {
    await ask('POST', `${path}/replay`, { ids });
    setOpen(null);
    onReplayed();
    await Promise.all([head.mutate(), earlier.mutate()]);
  };
  return (
    <View style={{ gap: 12 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'flex-end', gap: 12 }}>
        <PickRow
          label="Deliveries"
          value={of}
          options={[
            ['all', 'All'],
            ['waiting', 'Waiting'],
            ['shelf', 'Failed'],
          ]}
          onChange={setOf}
        />
        {shelf > 0 && (
          <QuietButton
            outlined
            title={`Send all ${grouped(shelf)} again`}
            onPress={() => void replay('all')}
          />
        )}
      </View>
      {head.error && !rows && <Failure error={head.error} again={() => void head.mutate()} />}
      {!rows && !head.error && <Waiting />}
      {rows?.length === 0 && (
        <Words kind="small">
          {of === 'all'
            ? 'Nothing has been sent yet.'
            : of === 'waiting'
              ? 'Nothing waits.'
              : 'No failed deliveries.'}
        </Words>
      )}
      <View role="list" aria-label="Deliveries">
        {rows?.map((row) => {
          const { tone, words } = stateOf(row);
          return (
            <View
              key={row.id}
              role="listitem"
              style={{
                borderTopWidth: 1,
                borderColor: colors.line,
                paddingVertical: 8,
                flexDirection: 'row',
                gap: 8,
                alignItems: 'center',
              }}
            >
              <View style={{ flex: 1, minWidth: 0 }}>
                <View
                  style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 8, alignItems: 'baseline' }}
                >
                  {row.personId === null ? (
                    <Words kind="strong">{row.name}</Words>
                  ) : (
                    <PlaceLink href={`/${client}/people/${row.personId}`} style={{ minHeight: 24 }}>
                      <Words kind="strong" color="teal">
                        {row.name}
                      </Words>
                    </PlaceLink>
                  )}
                  <Words kind="small" {...hint(exact(row.endedAt ?? row.madeAt))}>
                    {`${row.causes.map(causeWords).join(', ')}, ${whenWords(row.endedAt ?? row.madeAt)}`}
                  </Words>
                </View>
                <StateLine tone={tone}>{words}</StateLine>
              </View>
              {row.attempts > 0 && (
                <QuietButton
                  title="Details"
                  tone="teal"
                  label={`Details of the delivery of ${row.name}`}
                  onPress={() => setOpen(row.id)}
                />
              )}
            </View>
          );
        })}
      </View>
      {(more.at(-1)?.length ?? head.data?.length) === SHOWN && (
        <QuietButton
          outlined
          title="Show earlier deliveries"
          onPress={() => void earlier.setSize(earlier.size + 1)}
        />
      )}
      {open !== null && (
        <OneDelivery
          client={client}
          id={open}
          onClose={() => setOpen(null)}
          onReplay={(id) => void replay([id])}
        />
      )}
    </View>
  );
}

/** One delivery with each of its tries: what was sent beside what came back. */
export function OneDelivery({
  client,
  id,
  given,
  onClose,
  onReplay,
}: {
  client: string;
  id: string;
  given?: DeliveryPage;
  onClose: () => void;
  onReplay?: (id: string) => void;
}) {
  const { data = given, error } = useSWR<DeliveryPage, Error>(`/clients/${client}/deliveries/${id}`);
  return (
    <Dialog
      title={data ? data.name : 'Delivery'}
      width={860}
      open
      onClose={onClose}
      foot={
        data?.status === 'shelf' && onReplay ? (
          <QuietButton outlined title="Send again" onPress={() => onReplay(id)} />
        ) : undefined
      }
    >
      <View style={{ padding: 12, gap: 16 }}>
        {error && !data && <Failure error={error} />}
        {data?.tries.map((each) => (
          <View key={each.n} style={{ gap: 8 }}>
            <StateLine
              tone={each.ok ? 'quiet' : 'failing'}
              color={each.ok ? 'ink' : undefined}
              title={exact(each.at)}
            >
              {`${data.isTest ? 'A try' : `Try ${each.n}`}, ${whenWords(each.at)}, ${grouped(each.ms)} ms: ${each.reason}`}
            </StateLine>
            {each.calls.map((call, at) => (
              <Call key={at} call={call} />
            ))}
          </View>
        ))}
      </View>
    </Dialog>
  );
}

/** What went out, and beside it what came back. */
function Call({ call: { request, answer, ms } }: { call: CallView }) {
  const { colors, wide } = useTheme();
  const failed = 'silence' in answer || answer.status >= 400;
  return (
    <View
      style={{
        flexDirection: wide ? 'row' : 'column',
        gap: wide ? 16 : 6,
        borderLeftWidth: 2,
        borderColor: colors.line,
        paddingLeft: 10,
      }}
    >
      <View style={{ flex: wide ? 1 : undefined, gap: 4, minWidth: 0 }}>
        <Words kind="code" color="ink" selectable style={webStyle({ wordBreak: 'break-all' })}>
          {`${request.method} ${request.address}`}
        </Words>
        {request.body !== null && <Json label="Request" value={request.body} />}
      </View>
      <View style={{ flex: wide ? 1 : undefined, gap: 4, minWidth: 0 }}>
        <Words kind="smallStrong" color={failed ? 'red' : 'ink'}>
          {'silence' in answer
            ? `No answer: ${answer.silence}`
            : `Answered ${answer.status} after ${grouped(ms)} ms`}
        </Words>
        {'body' in answer && answer.body !== null && <Json label="Answer" value={answer.body} />}
      </View>
    </View>
  );
}
