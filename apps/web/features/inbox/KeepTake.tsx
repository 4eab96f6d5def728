import { useState } from 'react';
import { View } from 'react-native';
import type { ConversationPage, Entry, LoopPage, PersonForRehearsal } from '@dart-loop/contract';
import type { RealLine } from '@dart-loop/core/loops/takes/keepTake';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton, PlaceLink, QuietButton } from '../../ui/press';
import { Notice, Refused } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { ask, get } from '../session/api';
import { PickRow } from '../../ui/rows';
import { useAct } from '../session/useAct';

/**
 * A real conversation kept as a take of the loop that led it: played again before every publish of that loop.
 */
export function KeepTake({
  client,
  data,
  entries,
}: {
  client: string;
  data: ConversationPage;
  entries: readonly Entry[];
}) {
  const loops = loopsIn(entries);
  const [open, setOpen] = useState(false);
  const [loopId, setLoopId] = useState(loops.at(-1)?.id ?? '');
  const [name, setName] = useState('');
  const [kept, setKept] = useState(false);
  const { act, problem } = useAct();
  if (loops.length === 0 || !data.person) return null;
  const keep = () =>
    act(async () => {
      const { freshId, takeOfConversation, withTakes } = await import('../needsEngine');
      const person = await get<PersonForRehearsal>(
        `/clients/${client}/people/${data.person!.id}/for-rehearsal`,
      );
      const path = `/clients/${client}/loops/${loopId}`;
      const { draft, revision } = await get<LoopPage>(path);
      const taken = draft.takes ?? [];
      const take = takeOfConversation(linesFrom(entries, loopId), {
        id: freshId(
          name,
          taken.map(({ id }) => id),
        ),
        name: name.trim(),
        channel: data.channel,
        // What is known of them by now was not known when it began.
        person: {
          id: data.person!.id,
          ...(person.firstName && { firstName: person.firstName }),
          ...(person.language && { language: person.language }),
        },
      });
      if (!take) throw new Error('There is nothing in this conversation yet that a take could start with.');
      await ask('PUT', `${path}/draft`, { revision, loop: withTakes(draft, [...taken, take]) });
      setKept(true);
    });
  return (
    <>
      <QuietButton title="Keep as take" tone="teal" onPress={() => (setKept(false), setOpen(true))} />
      <Dialog title="Keep as take" open={open} onClose={() => setOpen(false)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Words kind="small">
            What the person wrote and what was answered becomes a test of the loop. Names and numbers are kept
            as they are.
          </Words>
          {loops.length > 1 && (
            <PickRow
              label="Loop"
              value={loopId}
              options={loops.map((loop) => [loop.id, loop.name] as const)}
              onChange={setLoopId}
            />
          )}
          <Field
            label="Name"
            placeholder="Wanted two bikes on the ferry"
            value={name}
            autoFocus
            onChangeText={setName}
          />
          <Refused problem={problem} />
          {kept ? (
            <Notice tone="quiet">
              <Words kind="small" color="ink">
                Take saved.
              </Words>
              <PlaceLink href={`/${client}/loops/${loopId}?see=checks`}>
                <Words kind="smallStrong" color="teal">
                  See the loop’s checks
                </Words>
              </PlaceLink>
            </Notice>
          ) : (
            <ActionButton title="Save take" disabled={!name.trim()} onPress={() => void keep()} />
          )}
        </View>
      </Dialog>
    </>
  );
}

/** The loops that answered in the conversation, in the order in which they first did. */
function loopsIn(entries: readonly Entry[]): { id: string; name: string }[] {
  const found = new Map<string, string>();
  for (const entry of entries) {
    if (entry.kind !== 'stage') continue;
    const winner = entry.decision?.candidates.find((candidate) => candidate.outcome === 'won');
    if (winner?.loopId) found.set(winner.loopId, winner.who);
  }
  return [...found].map(([id, name]) => ({ id, name }));
}

/** From where the loop first answered on; the team's own messages are left out. */
function linesFrom(entries: readonly Entry[], loopId: string): RealLine[] {
  const first = entries.findIndex(
    (entry) =>
      entry.kind === 'stage' &&
      entry.decision?.candidates.some((each) => each.outcome === 'won' && each.loopId === loopId),
  );
  const begin = entries.slice(0, first + 1).findLastIndex((entry) => entry.kind === 'in');
  return entries.slice(Math.max(0, begin)).flatMap((entry): RealLine[] => {
    const at = Date.parse(entry.at);
    if (entry.kind === 'in')
      return entry.how === 'elsewhere' ? [] : [{ at, from: 'them', words: entry.words, how: entry.how }];
    if (entry.kind !== 'out' || entry.by !== null) return [];
    return [
      {
        at,
        from: 'us',
        text: entry.body.text,
        labels: entry.body.taps.flatMap((tap) => ('ref' in tap ? [tap.label] : [])),
      },
    ];
  });
}
