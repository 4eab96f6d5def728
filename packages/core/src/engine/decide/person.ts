import { CHANNELS } from '../../channels';
import { confirms, readLeaving } from '../../consent/listWords';
import { isCancelWord, isOptOutOfEverything, readConsentWord } from '../../consent/words';
import { hear, hearOther, listensOn, whyPreferred, type HeardCue } from './cueIndex';
import type { Candidate } from './decision';
import { durationMs } from '../../loops/model/basics';
import { readMore } from '../run/choiceRef';
import type { Reply } from '../steps';
import type { Turn } from '../run/turn';
import type { World } from '../run/world';
import { phrases } from '../../language/phrases';
import type { FromPerson } from '.';
import { fromComment } from './comment';
import {
  begin,
  cueCandidate,
  finished,
  nobody,
  nothing,
  outranked,
  passedOver,
  placeOfCue,
  runCandidate,
  won,
  type Response,
} from './response';
import { whyNotNow } from './whyNotNow';

/** How long a list that was asked about can be confirmed. */
const MOST_CONFIRMING = 7 * 86_400_000;

/** The twelve places, in their order. */
export function fromPerson(turn: Turn, incoming: FromPerson): Response {
  const { world } = turn;
  if (world.repeated)
    return {
      ...nothing(world),
      decision: {
        candidates: [
          won('repeated delivery', 'nobody', 'the same event was delivered before, and is decided once'),
        ],
      },
    };
  if (incoming.kind === 'comment') return fromComment(turn, incoming);
  if (incoming.kind === 'blocked') return fromBlock(turn, incoming.on);
  const first = !turn.standing.heardFrom;
  turn.hearPerson(incoming.kind === 'reference' && incoming.ad !== null);
  const unseen = turn.standing.unseen;
  turn.standing.unseen = [];
  for (const silence of world.cues.silences) {
    if (!listensOn(silence, world.line.key)) continue;
    const { loopId, cue } = silence;
    const since = turn.standing.lastHeardAt ?? world.now;
    turn.setTimer(`silence:${loopId}:${cue.id}`, since + durationMs(cue.after), {
      kind: 'silence',
      loopId,
      cueId: cue.id,
      since,
    });
  }

  const text = textOf(incoming);
  const heard = heardBy(world, incoming, text);
  const consent = text === null ? null : readConsentWord(text, world.line.channel, world.client.languages);

  // 2: words about being written to at all, and about lists.
  if (text !== null && !turn.standing.optedOut) {
    const about = aboutList(turn, text);
    if (about)
      return finished(turn, {
        candidates: [
          won('opt-out, opt-in or help word', 'the program itself', about),
          ...outranked(turn, 'words about a list go before all loops'),
          ...passedOver(heard, 'words about a list go before all loops'),
        ],
      });
  }
  if (
    consent === 'opt-out' ||
    (consent === 'opt-in' && turn.standing.optedOut) ||
    (consent === 'help' && !turn.standing.optedOut)
  ) {
    const lost = [
      ...outranked(turn, 'the words stop, start or explain everything, and go before all loops'),
      ...passedOver(heard, 'opt-out, opt-in and help words go before all loops'),
    ];
    return aboutConsent(turn, consent, text!, lost);
  }
  if (turn.standing.optedOut) {
    turn.note({ code: 'opted out', what: incoming.kind === 'tap' ? 'a tap' : 'a message' });
    return finished(turn, {
      candidates: [
        won(
          'opt-out, opt-in or help word',
          'nobody',
          'the person has opted out of this line: it is recorded, and nothing is sent until they write START',
        ),
        ...passedOver(heard, 'nothing is sent to a person who has opted out'),
      ],
    });
  }

  // 3: a person of the team has the conversation.
  const held = turn.standing.held;
  if (held) {
    const who = held.by ?? held.team ?? 'whoever is there';
    turn.note({ code: 'recorded', who });
    const reason = held.by
      ? `${held.by} has stepped in: it is recorded, and no loop answers`
      : `the conversation was handed over to ${who}: it is recorded, and no loop answers`;
    return finished(
      turn,
      {
        candidates: [
          won('a person has stepped in', who, reason),
          ...passedOver(heard, 'a person has the conversation'),
        ],
      },
      'waiting on us',
    );
  }

  // 4: a tapped choice.
  if (incoming.kind === 'tap') return fromTap(turn, incoming);

  const foremost = turn.foremost;
  // What was held back is only shown now: these words are no answer to it.
  const shownLate = foremost?.at?.for === 'reply' && unseen.includes(foremost.id) ? foremost : null;
  const run = shownLate ? null : foremost;
  const reply = replyOf(incoming);
  const reading = run && reply ? turn.readable(run, reply) : null;
  const candidates = heard.map((each) => ({
    heard: each,
    whyNot: world.version(each.loopId, each.version) ? whyNotNow(turn, each) : 'its version is gone',
  }));
  const free = candidates.filter((each) => each.whyNot === null).map((each) => each.heard);
  const barred = candidates.flatMap(({ heard: each, whyNot }) =>
    whyNot === null ? [] : [cueCandidate(each, placeOfCue(each), 'lost', whyNot)],
  );

  // 9 and 11 come last: whoever answers before is what they lost to.
  const lastly = (first ? (['first message', 'fallback'] as const) : (['fallback'] as const)).map(
    (place) => ({
      place,
      cues: hearOther(world.cues, place, world.line.key),
    }),
  );
  const outpaced = lastly.flatMap(({ place, cues }) =>
    cues.map((each) => cueCandidate(each, place, 'lost', 'it takes only what nothing else takes')),
  );

  // 5: a cue that always wins.
  const always = free.find((each) => each.cue.kind === 'keyword' && each.cue.alwaysWins);
  if (always) {
    const lost = [
      ...free
        .filter((each) => each !== always)
        .map((each) =>
          cueCandidate(each, placeOfCue(each), 'lost', `“${always.loopName}” has a cue that always wins`),
        ),
      ...barred,
      ...outpaced,
    ];
    if (run && reading?.ok)
      lost.unshift(
        runCandidate(
          turn,
          run,
          'waiting run can read it',
          'lost',
          'a cue that always wins goes before a run that waits',
        ),
      );
    return begin(turn, always, 'cue that always wins', lost);
  }

  // 6: a run that waits and can read it. Somebody who wants to see more choices is answered by them.
  const more = run && text !== null ? turn.moreAsked(run, text) : null;
  if (run?.at && more !== null && turn.showFrom(run, run.at.step, more))
    return finished(turn, {
      candidates: [
        runCandidate(
          turn,
          run,
          'waiting run can read it',
          'won',
          'the run waits for a choice, and further ones are asked for',
        ),
        ...free.map((each) =>
          cueCandidate(
            each,
            placeOfCue(each),
            'lost',
            'a run that waits and can read the reply goes before cues',
          ),
        ),
        ...barred,
        ...outpaced,
      ],
    });
  // Words that call off have their own exit, where the step has one.
  if (run && reply) {
    const calledOff = text !== null && isCancelWord(text) ? turn.calledOff(run) : null;
    const gathers = calledOff === null && reply.kind === 'text' ? turn.gathersFor(run) : null;
    const summary =
      calledOff !== null
        ? 'words that call it off'
        : gathers && !reading?.ok && run.gathered.length > 0
          ? 'a part of the answer'
          : reading?.ok
            ? reading.summary
            : null;
    if (summary !== null) {
      const lost = [
        ...free.map((each) =>
          cueCandidate(
            each,
            placeOfCue(each),
            'lost',
            'a run that waits and can read the reply goes before cues',
          ),
        ),
        ...barred,
        ...outpaced,
      ];
      const winner = runCandidate(
        turn,
        run,
        'waiting run can read it',
        'won',
        `the run waits for a reply and can read this as ${summary}`,
      );
      if (calledOff !== null) turn.callOff(run, calledOff);
      else if (reading?.ok) turn.take(run, reply, reading);
      else if (reply.kind === 'text') turn.gather(run, reply.text, gathers!);
      return finished(turn, { candidates: [winner, ...lost] });
    }
  }
  const unreadReason =
    reading && !reading.ok
      ? reading.reason
      : incoming.kind === 'menu' || incoming.kind === 'reference'
        ? 'a tap on a link or the menu is no answer'
        : null;
  const unread = (outcome: 'won' | 'lost', more = ''): Candidate[] =>
    run && run.at?.for === 'reply'
      ? [
          runCandidate(
            turn,
            run,
            'waiting run cannot read it',
            outcome,
            `the run waits for a reply, but ${unreadReason ?? `a ${incoming.kind} cannot be read`}${more}`,
          ),
        ]
      : [];

  // 7: links, ads, the menu, keywords.
  const best = free[0];
  if (best) {
    const lost = [
      ...free.slice(1).map((each) => cueCandidate(each, placeOfCue(each), 'lost', whyPreferred(best, each))),
      ...barred,
      ...unread('lost', ', and a cue hears it'),
      ...outpaced,
    ];
    return begin(turn, best, placeOfCue(best), lost);
  }

  // 8: a run that waits and cannot read it.
  if (shownLate) {
    const loop = world.version(shownLate.loopId, shownLate.version)?.loop.name ?? 'a loop';
    turn.note({ code: 'question unseen', loop });
    const winner = runCandidate(
      turn,
      shownLate,
      'waiting run cannot read it',
      'won',
      'what it asks was held back and is only shown now',
    );
    return finished(turn, { candidates: [winner, ...barred, ...outpaced] });
  }
  if (run && reading && !reading.ok && turn.answersUnread(run)) {
    const winner = unread('won');
    turn.retryOrExit(run, reading.reason);
    return finished(turn, { candidates: [...winner, ...barred, ...outpaced] });
  }
  const before = [
    ...barred,
    ...unread('lost', run && reading ? ', and the step has no retry and no exit for that' : ''),
  ];

  // 9 and 11: the first message ever, and what nothing else takes. 10, the understudy, comes with its
  // sources.
  for (const { place, cues } of lastly) {
    const found = cues.map((each) => ({ heard: each, whyNot: whyNotNow(turn, each) }));
    const taker = found.find((each) => each.whyNot === null);
    const losers = found
      .filter((each) => each !== taker)
      .map((each) =>
        cueCandidate(each.heard, place, 'lost', each.whyNot ?? 'it stands later in the client’s own order'),
      );
    if (taker)
      return begin(turn, taker.heard, place, [...before, ...losers], { beside: place === 'fallback' });
    before.push(...losers);
  }

  // 12: nobody.
  return nobody(
    turn,
    before,
    incoming.kind === 'other'
      ? `a ${incoming.what} cannot be read by any loop`
      : heard.length === 0
        ? 'no cue hears this, and no run can read it'
        : 'the cues that hear this may not start now',
  );
}

function textOf(incoming: FromPerson): string | null {
  if (incoming.kind === 'text') return incoming.text;
  if (incoming.kind === 'reference') return incoming.text;
  return incoming.kind === 'menu' ? incoming.item.replace(/[_-]/g, ' ') : null;
}

function replyOf(incoming: FromPerson): Reply | null {
  switch (incoming.kind) {
    case 'text':
      return { kind: 'text', text: incoming.text };
    case 'reference':
      return incoming.text === null ? null : { kind: 'text', text: incoming.text };
    case 'file':
      return { kind: 'file', file: incoming.file };
    case 'place':
      return { kind: 'place', place: incoming.place };
    default:
      return null;
  }
}

/** Every cue of place 5 and 7 that hears the event, best first: reference, ad, menu, then keywords. */
function heardBy(world: World, incoming: FromPerson, text: string | null): HeardCue[] {
  const other = (key: string) => hearOther(world.cues, key, world.line.key);
  const typed = text === null ? [] : hear(world.cues, text, world.line.key);
  if (incoming.kind === 'reference') {
    const { ref, ad } = incoming;
    return [
      ...(ref === null ? [] : other(`link:${ref}`)),
      ...(ad === null ? [] : other(`ad:${ad}`)),
      ...(ref === null ? [] : other(`ad-ref:${ref}`)),
      ...typed,
    ];
  }
  // Where a link can carry nothing but words, they are its reference.
  if (incoming.kind === 'text' && !CHANNELS[world.line.channel].refs)
    return [...other(`link:${incoming.text.trim()}`), ...typed];
  return incoming.kind === 'menu' ? [...other(`menu:${incoming.item}`), ...typed] : typed;
}

/** Place 4; a late tap starts again from that choice where its version still can, else 12. */
function fromTap(turn: Turn, tap: Extract<FromPerson, { kind: 'tap' }>): Response {
  const { world } = turn;
  const reply: Reply = { kind: 'choice', choiceId: tap.choiceId };
  const own = turn.run(tap.runId);
  const from = readMore(tap.choiceId);
  if (from !== null && own && turn.showFrom(own, tap.stepId, from))
    return finished(turn, {
      candidates: [runCandidate(turn, own, 'tapped choice', 'won', 'further choices are asked for')],
    });
  const reading = own && own.at?.step === tap.stepId ? turn.readable(own, reply) : null;
  if (own && reading?.ok) {
    const winner = runCandidate(
      turn,
      own,
      'tapped choice',
      'won',
      `“${tap.label}” was tapped, and the run waits at that choice`,
    );
    turn.take(own, reply, reading);
    return finished(turn, { candidates: [winner] });
  }
  const offered = own ?? world.tappedRun;
  const version = offered && world.version(offered.loopId, offered.version);
  const late =
    offered && version
      ? from === null
        ? turn.readAt(version, tap.stepId, reply, offered, null)
        : turn.furtherChoices(version, tap.stepId, offered, from)
      : null;
  if (offered && version && late?.ok) {
    const winner = runCandidate(
      turn,
      offered,
      'tapped choice',
      'won',
      `“${tap.label}” was tapped after the run had moved on, so it starts again from that choice`,
    );
    turn.note({ code: 'late tap', loop: version.loop.name, label: tap.label });
    turn.start(version, offered.cueId, { from: { stepId: tap.stepId, reading: late } });
    return finished(turn, { candidates: [winner] });
  }
  return nobody(turn, [], `the button “${tap.label}” belongs to a version that no longer has that choice`);
}

/** A block is an opt-out of the line, and what undoes it undoes no other. */
function fromBlock(turn: Turn, on: boolean): Response {
  const { standing } = turn;
  const changes = on ? !standing.optedOut : standing.blocked;
  if (changes)
    turn.consent(on ? 'opt-out' : 'opt-in', on ? '(blocked the line)' : '(unblocked the line)', null);
  standing.blocked = on && (changes || standing.blocked);
  if (on) standing.held = null;
  const reason = on
    ? 'the person has blocked the line, which is an opt-out'
    : 'the person has unblocked the line';
  return finished(turn, { candidates: [won('opt-out, opt-in or help word', 'the program itself', reason)] });
}

/**
 * The person leaves a list, or confirms one that they were asked about; says which, or null when the words
 * are about neither.
 */
function aboutList(turn: Turn, text: string): string | null {
  const { world, standing } = turn;
  const words = phrases(turn.language);
  const leaving = readLeaving(text, world.person.lists, world.client.languages);
  if (leaving) {
    turn.leaveList(leaving, text);
    turn.confirm(words.leftList(leaving));
    return `“${text.trim().slice(0, 60)}” leaves the list ${leaving}`;
  }
  const { confirming } = standing;
  if (!confirming || world.now - confirming.since > MOST_CONFIRMING || !confirms(text, turn.language))
    return null;
  // A yes belongs to what was asked last.
  const run = turn.foremost;
  if (
    run?.at?.for === 'reply' &&
    run.at.since >= confirming.since &&
    turn.readable(run, { kind: 'text', text })?.ok
  )
    return null;
  turn.confirmList();
  turn.confirm(words.joinedList(confirming.list));
  return `“${text.trim().slice(0, 40)}” confirms the list ${confirming.list}`;
}

function aboutConsent(
  turn: Turn,
  what: 'opt-out' | 'opt-in' | 'help',
  text: string,
  lost: Candidate[],
): Response {
  const { client } = turn.world;
  const words = phrases(turn.language);
  const already = turn.standing.optedOut;
  const meaning = { 'opt-out': 'an opt-out word', 'opt-in': 'an opt-in word', help: 'a help word' }[what];
  if (what === 'help') {
    turn.note({ code: 'consent', what });
    turn.confirm(words.help(client.name, client.brief.phone ?? ''));
  } else {
    turn.consent(what, text, null, what === 'opt-out' && isOptOutOfEverything(text) ? 'everything' : 'line');
    // One confirmation, and nothing more.
    if (what === 'opt-in') turn.confirm(words.startedAgain(client.name));
    else if (!already) turn.confirm(words.stopped(client.name));
    if (what === 'opt-out') turn.standing.held = null;
  }
  return finished(turn, {
    candidates: [
      won(
        'opt-out, opt-in or help word',
        'the program itself',
        `“${text.trim().slice(0, 40)}” is ${meaning}`,
      ),
      ...lost,
    ],
  });
}
