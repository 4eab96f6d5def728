import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { ScrollView, View } from 'react-native';
import { onWeb } from '../../../ui/onWeb';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Loop, PersonFacts, Value } from '@dart-loop/core';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { CHANNEL_KINDS } from '@dart-loop/core/people/client';
import { stranger, valueWords } from '@dart-loop/core/people/person';
import { nextTimer } from '@dart-loop/core/engine/rehearsal/rehearsal';
import {
  cueLine,
  openSession,
  performed,
  performedAgain,
  takenBack,
  takeOf,
  type Opening,
  type Session,
} from '@dart-loop/core/engine/rehearsal/session';
import { withTakes } from '@dart-loop/core/loops/takes/keepTake';
import { Field } from '../../../ui/Field';
import { Dialog, Menu, type MenuItem } from '../../../ui/Menu';
import { ActionButton, QuietButton } from '../../../ui/press';
import { Notice } from '../../../ui/parts';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { dateWords } from '../../../ui/time';
import { EntryLine } from './EntryLine';
import { PersonPicker, type Somebody } from './PersonPicker';
import { ChannelChoice } from './ChannelChoice';
import { nextAt, takeName } from './nextAt';
import { useSourcesAsked } from './useSourcesAsked';

/**
 * What the rehearsal is asked to do from outside: begin at a scene, or go a path. `key` changes with every
 * asking.
 */
export interface Asked {
  key: number;
  lines: string[];
  fields: Record<string, Value>;
}

/**
 * The draft played in the browser by the engine itself: any channel, anybody, a clock that is wound. Nothing
 * leaves, nothing is stored.
 */
export function RehearsePane({
  client,
  loop,
  known,
  asked,
  edit,
}: {
  client: string;
  loop: Loop;
  known: LoopSurroundings;
  asked: Asked | null;
  edit: (change: (loop: Loop) => Loop) => void;
}) {
  const { colors } = useTheme();
  const own = known.lines
    .filter((line) => loop.lines.length === 0 || loop.lines.includes(line.key))
    .map((line) => line.channel);
  const [somebody, setSomebody] = useState<Somebody>({
    words: 'somebody new',
    person: stranger('somebody-1'),
  });
  const [session, setSession] = useState<Session>(() =>
    openSession(loop, known, { channel: own[0] ?? 'telegram', person: somebody.person, now: Date.now() }),
  );
  useSourcesAsked(client, session, setSession);
  const [typed, setTyped] = useState('');
  const [naming, setNaming] = useState<string | null>(null);
  const [kept, setKept] = useState<string | null>(null);
  const scroll = useRef<ScrollView>(null);

  // The draft is written on: what was done is done again on it.
  const draft = useDeferredValue(loop);
  const played = useRef({ draft, known });
  useEffect(() => {
    if (played.current.draft === draft && played.current.known === known) return;
    played.current = { draft, known };
    setSession((before) => performedAgain(before, draft, known));
  }, [draft, known]);

  const done = useRef(0);
  useEffect(() => {
    if (!asked || done.current === asked.key) return;
    done.current = asked.key;
    setSession((before) => {
      const person: PersonFacts = {
        ...before.opening.person,
        fields: { ...before.opening.person.fields, ...asked.fields },
      };
      return asked.lines.reduce(performed, openSession(loop, known, { ...before.opening, person }));
    });
  }, [asked, loop, known]);

  const entries = session.turns.flatMap((turn, at) =>
    turn.entries.map((entry, index) => ({ entry, key: `${at}.${index}` })),
  );
  useEffect(() => {
    setTimeout(() => scroll.current?.scrollToEnd({ animated: false }), 30);
  }, [entries.length]);

  const does = (line: string) => {
    setKept(null);
    setSession((before) => performed(before, line));
  };
  const begin = (change: Partial<Opening>, keep: boolean) =>
    setSession((before) => {
      const opening = { ...before.opening, ...change };
      return keep ? performedAgain(before, loop, known, opening) : openSession(loop, known, opening);
    });
  const { rehearsal, opening } = session;
  const waiting = nextTimer(rehearsal);
  const zone = known.client.timeZone;
  const send = () => {
    if (typed.trim() === '') return;
    does(typed);
    setTyped('');
  };
  const cues = loop.cues.flatMap((cue) => {
    const line = cueLine(cue);
    return line ? [{ ...line, id: cue.id }] : [];
  });
  const facts = [
    ...Object.entries(rehearsal.person.fields).map(
      ([key, value]) => `${known.fieldNames[key] ?? key.replaceAll('_', ' ')}: ${valueWords(value)}`,
    ),
    ...rehearsal.person.tags.map((tag) => `tag ${tag}`),
    ...rehearsal.person.lists.map((list) => `on ${list}`),
  ];
  const more: MenuItem[] = useMemo(
    () => [
      ...loop.scenes.map((scene, index) => ({
        key: `scene ${scene.id}`,
        words: `Start again at ${index + 1} ${scene.name}`,
        onChoose: () =>
          setSession((before) => performed(openSession(loop, known, before.opening), `/scene ${scene.id}`)),
      })),
      { key: 'photo', words: 'They send a photo', onChoose: () => does('@file photo.jpg') },
      { key: 'place', words: 'They share a place', onChoose: () => does('@place 54.1, -2.3') },
      { key: 'stop', words: 'They write STOP', onChoose: () => does('STOP') },
      { key: 'block', words: 'They block the line', onChoose: () => does('~ block') },
      { key: 'refuses', words: 'The channel refuses the message', onChoose: () => does('~ channel refuses') },
      { key: 'works', words: 'The channel accepts messages again', onChoose: () => does('~ channel works') },
      { key: 'failed', words: 'The outgoing call fails', onChoose: () => does('! failed') },
      { key: 'in', words: 'A colleague steps in', onChoose: () => does('~ step in') },
      { key: 'back', words: 'The colleague hands back', onChoose: () => does('~ hand back') },
      { key: 'day', words: 'A day passes', onChoose: () => does('+1d') },
    ],
    [loop, known],
  );
  const timeWords = (at: number) =>
    dateWords(at, {
      weekday: 'short',
      hour: '2-digit',
      minute: '2-digit',
      timeZone: zone,
    });
  return (
    <View role="region" aria-label="Rehearse" style={{ flex: 1, gap: 8, minHeight: 0 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', gap: 4 }}>
        <View role="radiogroup" aria-label="Channel" style={{ flexDirection: 'row', gap: 4 }}>
          {CHANNEL_KINDS.map((channel) => (
            <ChannelChoice
              key={channel}
              channel={channel}
              chosen={opening.channel === channel}
              faint={own.length > 0 && !own.includes(channel)}
              onChoose={() => begin({ channel }, true)}
            />
          ))}
        </View>
        <PersonPicker
          client={client}
          loop={loop}
          known={known}
          now={opening.now}
          words={somebody.words}
          onChoose={(next) => {
            setSomebody(next);
            begin({ person: next.person }, true);
          }}
        />
        <Menu
          compact
          label={`The clock: ${timeWords(rehearsal.now)}. Change when it begins`}
          title="Start time"
          items={[
            { key: 'now', words: 'Now', onChoose: () => begin({ now: Date.now() }, true) },
            {
              key: 'ten',
              words: 'Next weekday at 10:00',
              onChoose: () => begin({ now: nextAt(10, zone) }, true),
            },
            {
              key: 'night',
              words: 'Tonight at 23:00, in the quiet hours',
              onChoose: () => begin({ now: nextAt(23, zone, true) }, true),
            },
          ]}
        >
          <Words kind="code" color="ink">
            {timeWords(rehearsal.now)}
          </Words>
        </Menu>
      </View>
      <View
        style={{
          flex: 1,
          minHeight: 200,
          backgroundColor: colors.sheet,
          borderWidth: 1,
          borderColor: colors.line,
          borderRadius: 6,
        }}
      >
        <ScrollView
          ref={scroll}
          contentContainerStyle={{ padding: 10, gap: 8 }}
          {...onWeb({ role: 'log', 'aria-live': 'polite', 'aria-label': 'Conversation', tabIndex: 0 })}
        >
          {entries.length === 0 && (
            <View style={{ gap: 6 }}>
              <Words color="quiet">
                Write as the customer would, or start the loop below. Nothing is sent, and nothing is saved
                unless you keep a take.
              </Words>
              {cues.map((cue) => (
                <QuietButton
                  key={cue.id}
                  outlined
                  title={`The person ${cue.words}`}
                  onPress={() => does(cue.does)}
                />
              ))}
              {loop.scenes[0] && (
                <QuietButton
                  title={`Begin at ${loop.scenes[0].name}`}
                  tone="teal"
                  onPress={() => does(`/scene ${loop.scenes[0]!.id}`)}
                />
              )}
            </View>
          )}
          {entries.map(({ entry, key }) => (
            <EntryLine
              key={key}
              entry={entry}
              taps={CHANNELS[opening.channel].taps}
              time={timeWords(entry.at)}
              onTap={(label) => does(`[${label}]`)}
            />
          ))}
          {session.problem && (
            <Notice tone="warning">{`${session.problem[0]!.toUpperCase()}${session.problem.slice(1)}.`}</Notice>
          )}
        </ScrollView>
      </View>
      {facts.length > 0 && <Words kind="small">{`Known now: ${facts.join(' · ')}`}</Words>}
      <View style={{ flexDirection: 'row', gap: 8, alignItems: 'flex-end' }}>
        <Field
          hideLabel
          label="Write as the customer"
          placeholder="Write as the customer"
          value={typed}
          onChangeText={setTyped}
          onSubmitEditing={send}
          submitBehavior="submit"
          {...onWeb({ dataSet: { rehearse: 'field' } })}
        />
        <QuietButton outlined title="Send" disabled={typed.trim() === ''} onPress={send} />
      </View>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 4 }}>
        {waiting && (
          <QuietButton
            title={`Skip to ${timeWords(Math.max(waiting.dueAt, rehearsal.now))}`}
            label={`No reply: skip to ${timeWords(Math.max(waiting.dueAt, rehearsal.now))}`}
            onPress={() => does('+next')}
          />
        )}
        {session.turns.length > 0 && <QuietButton title="Start again" onPress={() => begin({}, false)} />}
        {session.turns.length > 0 && (
          <QuietButton
            title="Undo last"
            onPress={() => setSession((before) => takenBack(before, loop, known))}
          />
        )}
        <Menu compact label="More events" title="More events" items={more}>
          <Words kind="strong" style={{ fontSize: 15, paddingHorizontal: 6 }}>
            More
          </Words>
        </Menu>
        {session.turns.length > 0 && (
          <QuietButton title="Keep as take" tone="teal" onPress={() => setNaming(takeName(session))} />
        )}
      </View>
      {kept && <Notice tone="quiet">{kept}</Notice>}
      <Dialog title="Keep as take" open={naming !== null} onClose={() => setNaming(null)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Words kind="small">
            What the person writes and what is answered is saved. It is played again after every change and
            before publishing.
          </Words>
          <Field
            label="Name"
            placeholder="Says yes and gives an email"
            value={naming ?? ''}
            autoFocus
            onChangeText={setNaming}
          />
          <ActionButton
            title="Save take"
            disabled={!naming?.trim()}
            onPress={() => {
              const name = naming!.trim().slice(0, 120);
              edit((before) =>
                withTakes(before, [...(before.takes ?? []), takeOf(session, name, before.takes ?? [])]),
              );
              setNaming(null);
              setKept(`Saved as “${name}”. Find it under Checks.`);
            }}
          />
        </View>
      </Dialog>
    </View>
  );
}
