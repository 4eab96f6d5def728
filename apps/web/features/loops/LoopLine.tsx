import type { ReactNode } from 'react';
import { View } from 'react-native';
import type { LoopRow } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import { PlaceLink } from '../../ui/press';
import { StateShape } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { grouped } from '../../ui/time';
import { STATE_WORDS } from './stateWords';

const toneOf = ({ state, draftAhead }: LoopRow) =>
  state === 'live' ? (draftAhead ? 'ahead' : 'live') : state === 'paused' ? 'warning' : 'quiet';
const stateOf = ({ state, liveVersion }: LoopRow) =>
  state === 'live' ? `live, version ${liveVersion}` : STATE_WORDS[state];
const startsWith = ({ cues }: LoopRow) =>
  cues.length === 0 ? 'nothing starts it yet' : `starts with ${cues.join('; ')}`;

/** One row of the table: the same widths for its head and every loop. */
function Cells(cells: {
  name: ReactNode;
  state: ReactNode;
  now: ReactNode;
  week: ReactNode;
  fix: ReactNode;
}) {
  return (
    <View style={{ flexDirection: 'row', alignItems: 'center', gap: 16 }}>
      <View style={{ flex: 3, minWidth: 0 }}>{cells.name}</View>
      <View style={{ flex: 1, minWidth: 150 }}>{cells.state}</View>
      <View style={{ width: 80, alignItems: 'flex-end' }}>{cells.now}</View>
      <View style={{ width: 110, alignItems: 'flex-end' }}>{cells.week}</View>
      <View style={{ width: 60, alignItems: 'flex-end' }}>{cells.fix}</View>
    </View>
  );
}

/** The names of the table's columns, on a wide screen. */
export function LoopHeads() {
  return (
    <View aria-hidden style={{ paddingBottom: 6 }}>
      <Cells
        name={<Words kind="small">Name</Words>}
        state={<Words kind="small">State</Words>}
        now={<Words kind="small">In it now</Words>}
        week={<Words kind="small">Finished (7 d)</Words>}
        fix={<Words kind="small">To fix</Words>}
      />
    </View>
  );
}

/** A loop in the list: a row of the table on a wide screen, three lines on a phone. */
export function LoopLine({ loop, href }: { loop: LoopRow; href: string }) {
  const { colors, wide } = useTheme();
  return (
    <View role="listitem">
      <PlaceLink
        href={href}
        style={{ borderTopWidth: 1, borderColor: colors.line, borderRadius: 0, paddingVertical: 12 }}
      >
        {wide ? <TableRow loop={loop} /> : <PhoneRow loop={loop} />}
      </PlaceLink>
    </View>
  );
}

function TableRow({ loop }: { loop: LoopRow }) {
  return (
    <Cells
      name={
        <>
          <Words kind="strong">{loop.name}</Words>
          <Words kind="small" numberOfLines={2}>
            {startsWith(loop)}
          </Words>
        </>
      }
      state={
        <>
          <View style={{ flexDirection: 'row' }}>
            <StateShape tone={toneOf(loop)} />
            <Words kind="small" color="ink">
              {stateOf(loop)}
            </Words>
          </View>
          {loop.draftAhead && <Words kind="small">draft has changes</Words>}
        </>
      }
      now={<Figure count={loop.peopleInIt} />}
      week={<Figure count={loop.finishedThisWeek} />}
      fix={
        loop.problems > 0 ? (
          <Words kind="code" color="ochre">
            {`◆ ${loop.problems}`}
          </Words>
        ) : (
          <Words kind="code">–</Words>
        )
      }
    />
  );
}

function Figure({ count }: { count: number }) {
  return (
    <Words kind="code" color={count > 0 ? 'ink' : 'quiet'}>
      {grouped(count)}
    </Words>
  );
}

function PhoneRow({ loop }: { loop: LoopRow }) {
  return (
    <>
      <Words kind="name">{loop.name}</Words>
      <Words kind="small" color="ink">
        {startsWith(loop)}
      </Words>
      <View style={{ flexDirection: 'row' }}>
        <StateShape tone={toneOf(loop)} />
        <Words kind="small" style={{ flex: 1 }}>
          {[
            stateOf(loop),
            ...(loop.draftAhead ? ['draft has changes'] : []),
            `${grouped(loop.peopleInIt)} in it now`,
            `${grouped(loop.finishedThisWeek)} finished this week`,
            ...(loop.problems > 0 ? [`${counted(loop.problems, 'thing')} to fix`] : []),
          ].join(' · ')}
        </Words>
      </View>
    </>
  );
}
