import { useState } from 'react';
import { View } from 'react-native';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { readSentence } from '@dart-loop/core/loops/edit/typedCondition';
import { readDuration, readTimeOfDay } from '@dart-loop/core/loops/edit/typedTime';
import { heardElsewhere } from '@dart-loop/core/engine/decide/clashes';
import { Cue, KEYWORD_MATCHES, MATCH_WORDS } from '@dart-loop/core/engine/cues/index';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { conditionWords } from '@dart-loop/core/people/conditionWords';
import { readConsentWord } from '@dart-loop/core/consent/words';
import { fieldKey } from '@dart-loop/core/language/slug';
import { Dialog } from '../../../ui/Menu';
import { ActionButton } from '../../../ui/press';
import { Refused } from '../../../ui/parts';
import { Words } from '../../../ui/Words';
import { Group, PickRow, TextRow, TickRow } from '../../../ui/rows';

type Set = (entries: Record<string, unknown>) => void;
const listed = (typed: string, by: RegExp = /[,\n]/) =>
  typed
    .split(by)
    .map((each) => each.trim())
    .filter(Boolean);
const none = <T,>(list: T[]): T[] | undefined => (list.length > 0 ? list : undefined);

/**
 * One cue, in words: what it hears, on which lines, and when it may fire again. What is sound is written at
 * once.
 */
export function CueForm({
  cue,
  loop,
  known,
  onChange,
  onClose,
}: {
  cue: Cue;
  loop: Loop;
  known: LoopSurroundings | undefined;
  onChange: (cue: Cue) => void;
  onClose: () => void;
}) {
  const [written, setWritten] = useState<Cue>(cue);
  const [problem, setProblem] = useState<string | null>(null);
  const set: Set = (entries) => {
    const next = Object.fromEntries(
      Object.entries({ ...written, ...entries }).filter(([, value]) => value !== undefined),
    ) as Cue;
    setWritten(next);
    const read = Cue.safeParse(next);
    const reason = read.success ? null : read.error.issues[0]!.message;
    setProblem(
      reason && `${reason[0]!.toUpperCase()}${reason.slice(1)}. Until then the cue stays as it was.`,
    );
    if (read.success) onChange(read.data);
  };
  const lines = (known?.lines ?? []).filter(
    (line) => loop.lines.length === 0 || loop.lines.includes(line.key),
  );
  const again = typeof written.again === 'object' ? 'once in' : (written.again ?? 'always');
  return (
    <Dialog title="This cue" open onClose={onClose}>
      <View style={{ padding: 12, gap: 16 }}>
        <Own cue={written} set={set} loop={loop} known={known} />
        <Refused problem={problem} />
        {lines.length > 1 && (
          <Group title="Listens on">
            {lines.map((line) => {
              const on = !written.lines?.length || written.lines.includes(line.key);
              return (
                <TickRow
                  key={line.key}
                  label={`${line.name ?? line.key}, ${CHANNELS[line.channel].name}`}
                  on={on}
                  onChange={(next) => {
                    const now = written.lines?.length ? written.lines : lines.map(({ key }) => key);
                    const after = next ? [...now, line.key] : now.filter((key) => key !== line.key);
                    // All of them is the same as none named; a cue that listens nowhere is none.
                    if (after.length > 0) set({ lines: after.length === lines.length ? undefined : after });
                  }}
                />
              );
            })}
          </Group>
        )}
        <TextRow
          label="Only for whom"
          placeholder="everybody"
          value={written.who ? conditionWords(written.who) : ''}
          hint="“in the segment Regulars”, “opted in on sms and town is Harwick”; nothing for everybody"
          read={(typed) => {
            const read = typed.trim() === '' ? null : readSentence(typed);
            return !read || read.ok ? null : `“${read.words}” cannot be read as something about a person.`;
          }}
          onChange={(typed) => {
            const read = readSentence(typed);
            set({ who: read.ok ? read.condition : undefined });
          }}
        />
        <PickRow
          label="May start again for the same person"
          value={again}
          options={
            [
              ['always', 'always'],
              ['once', 'only once'],
              ['once in', 'once in so long'],
              ['not while running', 'not while running'],
              ['after finishing', 'after finishing'],
            ] as const
          }
          onChange={(next) =>
            set({ again: next === 'always' ? undefined : next === 'once in' ? { onceIn: '7d' } : next })
          }
        />
        {typeof written.again === 'object' && (
          <TextRow
            label="Once in"
            value={durationWords(written.again.onceIn)}
            read={(typed) => (readDuration(typed) ? null : 'A time is a number and a unit, such as “7 d”.')}
            onChange={(typed) => set({ again: { onceIn: readDuration(typed)! } })}
          />
        )}
        <PickRow
          label="While the loop runs with them already"
          value={written.whileRunning ?? 'start over'}
          options={
            [
              ['start over', 'starts over'],
              ['ignore', 'is ignored'],
              ['resume', 'goes on where it was'],
            ] as const
          }
          onChange={(next) => set({ whileRunning: next === 'start over' ? undefined : next })}
        />
        <View style={{ alignItems: 'flex-start' }}>
          <ActionButton title="Done" onPress={onClose} />
        </View>
      </View>
    </Dialog>
  );
}

function Own({
  cue,
  set,
  loop,
  known,
}: {
  cue: Cue;
  set: Set;
  loop: Loop;
  known: LoopSurroundings | undefined;
}) {
  switch (cue.kind) {
    case 'keyword':
      return <KeywordOwn cue={cue} set={set} loop={loop} known={known} />;
    case 'link':
      return (
        <TextRow
          label="Reference"
          placeholder="summer-poster"
          hint="Letters, digits, - and _. The links and QR codes stand under Ways in once the loop is live."
          value={cue.ref}
          onChange={(ref) => set({ ref })}
        />
      );
    case 'menu tap':
      return (
        <TextRow
          label="The menu’s item or the command"
          placeholder="hours"
          value={cue.item}
          onChange={(item) => set({ item: item.toLowerCase() })}
        />
      );
    case 'first message':
      return <Words>Whatever somebody writes for the first time, where nothing else hears it.</Words>;
    case 'fallback':
      return <Words>Whatever nothing else has heard.</Words>;
    case 'comment':
      return <CommentOwn cue={cue} set={set} />;
    case 'ad click':
      return (
        <>
          <TextRow
            label="Ids of the ads, with commas between"
            placeholder="120330022001"
            value={(cue.ads ?? []).join(', ')}
            onChange={(typed) => set({ ads: none(listed(typed)) })}
          />
          <TextRow
            label="Or the ad’s reference"
            placeholder="autumn"
            value={cue.ref ?? ''}
            onChange={(ref) => set({ ref: ref.trim() || undefined })}
          />
          <Group title="Questions that must be answered in the ad">
            {questionsOf(loop).map(({ id, words }) => (
              <TickRow
                key={id}
                label={words}
                on={cue.required?.includes(id) ?? false}
                onChange={(on) =>
                  set({
                    required: none(
                      on ? [...(cue.required ?? []), id] : (cue.required ?? []).filter((each) => each !== id),
                    ),
                  })
                }
              />
            ))}
            {questionsOf(loop).length === 0 && <Words kind="small">The loop asks nothing yet.</Words>}
          </Group>
        </>
      );
    case 'lead form':
      return (
        <>
          <TextRow
            label="Ids of the forms, with commas between"
            placeholder="778100220033"
            value={cue.forms.join(', ')}
            onChange={(typed) => set({ forms: listed(typed) })}
          />
          <TextRow
            label="Which answer goes into which field, one per line"
            placeholder="email -> email"
            multiline
            value={Object.entries(cue.fields ?? {})
              .map(([from, to]) => `${from} -> ${to}`)
              .join('\n')}
            read={(typed) =>
              typed.split('\n').every((line) => !line.trim() || /->/.test(line))
                ? null
                : 'Each line is an answer, an arrow and a field.'
            }
            onChange={(typed) => {
              const pairs = listed(typed, /\n/).map(
                (line) => line.split('->').map((part) => part.trim()) as [string, string],
              );
              set({
                fields:
                  pairs.length > 0
                    ? Object.fromEntries(pairs.map(([from, to]) => [from, fieldKey(to)]))
                    : undefined,
              });
            }}
          />
          <TextRow
            label="What the form says people agree to"
            hint="With the whole sentence it is an opt-in in these words; without, it is none."
            placeholder="I agree to get messages about plants."
            multiline
            value={cue.optIn ?? ''}
            onChange={(optIn) => set({ optIn: optIn.trim() || undefined })}
          />
        </>
      );
    case 'tag':
      return (
        <>
          <TextRow label="Tag" placeholder="vip" value={cue.tag} onChange={(tag) => set({ tag })} />
          <PickRow
            label="When it is"
            value={cue.when}
            options={
              [
                ['added', 'put on'],
                ['removed', 'taken off'],
              ] as const
            }
            onChange={(when) => set({ when })}
          />
        </>
      );
    case 'list joined':
      return (
        <TextRow
          label="List"
          placeholder="Workshop news"
          value={cue.list}
          onChange={(list) => set({ list })}
        />
      );
    case 'field changed':
      return (
        <>
          <TextRow
            label="Field"
            placeholder="email"
            value={cue.field}
            onChange={(field) => set({ field: fieldKey(field) })}
          />
          <TextRow
            label="Only when it becomes"
            placeholder="anything"
            value={cue.to ?? ''}
            onChange={(to) => set({ to: to.trim() || undefined })}
          />
        </>
      );
    case 'date':
      return (
        <>
          <TextRow
            label="Field with the day"
            placeholder="arrival"
            value={cue.field}
            onChange={(field) => set({ field: fieldKey(field) })}
          />
          <TextRow
            label="Days after it (before it: with a minus)"
            placeholder="-1"
            value={String(cue.days)}
            read={(typed) =>
              /^-?\d{1,3}$/.test(typed.trim())
                ? null
                : 'A whole number of days, such as -1 for the day before.'
            }
            onChange={(typed) => set({ days: Number(typed) })}
          />
          <TextRow
            label="At"
            placeholder="10:00"
            value={cue.at}
            read={(typed) => (readTimeOfDay(typed) ? null : 'A time of day, such as 10:00.')}
            onChange={(typed) => set({ at: readTimeOfDay(typed) })}
          />
          <TickRow
            label="Every year again"
            on={cue.yearly === true}
            onChange={(on) => set({ yearly: on ? true : undefined })}
          />
        </>
      );
    case 'silence':
      return (
        <TextRow
          label="Nothing heard for"
          placeholder="7 d"
          value={durationWords(cue.after)}
          read={(typed) => (readDuration(typed) ? null : 'A time is a number and a unit, such as “7 d”.')}
          onChange={(typed) => set({ after: readDuration(typed) })}
        />
      );
    case 'incoming webhook':
      return (
        <TextRow
          label="Name of the webhook"
          placeholder="order-shipped"
          hint="Its address is made under More, Webhooks."
          value={cue.hook}
          onChange={(hook) => set({ hook: hook.trim().toLowerCase() })}
        />
      );
  }
}

const questionsOf = (loop: Loop) =>
  loop.scenes.flatMap((scene) =>
    scene.steps.flatMap((step) =>
      step.kind === 'ask' || (step.kind === 'say' && step.choices?.length)
        ? [{ id: step.id, words: step.text.slice(0, 80) }]
        : [],
    ),
  );

function KeywordOwn({
  cue,
  set,
  loop,
  known,
}: {
  cue: Extract<Cue, { kind: 'keyword' }>;
  set: Set;
  loop: Loop;
  known: LoopSurroundings | undefined;
}) {
  const [words, setWords] = useState(cue.words);
  // As it is typed, also while it cannot be saved yet.
  const asTyped = { ...cue, words };
  const heard = heardElsewhere(loop, asTyped, known?.others ?? []);
  const rank = (match: (typeof KEYWORD_MATCHES)[number]) => KEYWORD_MATCHES.indexOf(match);
  const consent = words.filter(
    (word) => cue.match === 'exactly' && readConsentWord(word, 'sms', known?.client.languages ?? []) !== null,
  );
  const whole = cue.match !== 'part' && cue.match !== 'pattern';
  return (
    <>
      <TextRow
        label={cue.match === 'pattern' ? 'Patterns, one per line' : 'Keywords, with commas between'}
        placeholder={cue.match === 'pattern' ? '^(open|hours)' : 'OPEN, HOURS'}
        autoFocus
        multiline={cue.match === 'pattern'}
        value={cue.words.join(cue.match === 'pattern' ? '\n' : ', ')}
        read={(typed) =>
          listed(typed, cue.match === 'pattern' ? /\n/ : undefined).length > 0
            ? null
            : 'Write at least one keyword.'
        }
        onChange={(typed) => {
          const next = [...new Set(listed(typed, cue.match === 'pattern' ? /\n/ : undefined))];
          setWords(next);
          set({ words: next });
        }}
      />
      <View role="status" aria-label="Who else hears this?" style={{ gap: 2 }}>
        {consent.map((word) => (
          <Words
            key={word}
            kind="small"
            color="ochre"
          >{`◆ “${word}” is an opt-out, opt-in or help word, which goes before every loop.`}</Words>
        ))}
        {heard.length === 0 && consent.length === 0 && <Words kind="small">Nobody else hears this.</Words>}
        {heard.map(({ word, other, match, same }) => (
          <Words key={`${word} ${other.name}`} kind="small" color="ochre">
            {same
              ? `◆ “${word}” is heard by ${other.name} too, ${MATCH_WORDS[match]} as here: the one that stands first among the loops answers.`
              : rank(match) < rank(cue.match)
                ? `◆ “${word}” is heard by ${other.name} first, which takes it ${MATCH_WORDS[match]}.`
                : `◇ “${word}” is also heard by ${other.name} ${MATCH_WORDS[match]}, which is broader: here it is taken first.`}
          </Words>
        ))}
      </View>
      <PickRow
        label="Matched"
        value={cue.match}
        options={KEYWORD_MATCHES.map((match) => [match, MATCH_WORDS[match]] as const)}
        onChange={(match) =>
          set({
            match,
            slip: match === 'part' || match === 'pattern' ? undefined : cue.slip,
            alwaysWins: match === 'exactly' ? cue.alwaysWins : undefined,
          })
        }
      />
      {whole && (
        <TickRow
          label="Forgives one slip of typing"
          hint="in words of five letters or more"
          on={cue.slip === true}
          onChange={(on) => set({ slip: on ? true : undefined })}
        />
      )}
      {cue.match === 'exactly' && (
        <TickRow
          label="Always wins"
          hint="also while another loop waits for an answer"
          on={cue.alwaysWins === true}
          onChange={(on) => set({ alwaysWins: on ? true : undefined })}
        />
      )}
    </>
  );
}

function CommentOwn({ cue, set }: { cue: Extract<Cue, { kind: 'comment' }>; set: Set }) {
  const posts = Array.isArray(cue.posts) ? 'these' : cue.posts;
  return (
    <>
      <PickRow
        label="Under"
        value={posts}
        options={
          [
            ['any', 'any post'],
            ['from now on', 'posts from now on'],
            ['these', 'these posts'],
          ] as const
        }
        onChange={(next) => set({ posts: next === 'these' ? ['post-id'] : next })}
      />
      {Array.isArray(cue.posts) && (
        <TextRow
          label="Ids of the posts, with commas between"
          value={cue.posts.join(', ')}
          onChange={(typed) => set({ posts: listed(typed) })}
        />
      )}
      <TextRow
        label="Only with one of these words"
        placeholder="tickets, presale"
        value={(cue.with ?? []).join(', ')}
        onChange={(typed) => set({ with: none(listed(typed)) })}
      />
      <TextRow
        label="Never with one of these"
        placeholder="sold out"
        value={(cue.without ?? []).join(', ')}
        onChange={(typed) => set({ without: none(listed(typed)) })}
      />
      <TickRow
        label="Answers to other comments count too"
        on={cue.nested === true}
        onChange={(on) => set({ nested: on ? true : undefined })}
      />
      <TextRow
        label="Answered publicly too, one wording per line, drawn in turn"
        placeholder="You have a message from us."
        multiline
        value={(cue.publicReplies ?? []).join('\n')}
        onChange={(typed) => set({ publicReplies: none(listed(typed, /\n/)) })}
      />
    </>
  );
}
