import { CHANNELS } from '../../../channels';
import { readConsentWord, type ConsentWord } from '../../../consent/words';
import type { Reply, StepReading } from '../../steps';
import type { Run } from '../../run/run';
import type { Turn } from '../../run/turn';
import type { World } from '../../run/world';
import type { FromPerson } from '../incoming';
import { hear, hearOther, isKeyword, type HeardCue } from '../cueIndex';
import type { Candidate } from '../decision';
import { cueCandidate, placeOfCue, runCandidate, type Response } from '../response';
import { whyNotNow } from '../whyNotNow';

/** What a place may be asked: what a person does, but for comments and blocks, which go ways of their own. */
export type Asked = Exclude<FromPerson, { kind: 'comment' } | { kind: 'blocked' }>;

/** A place in the order: it answers the event, or passes it on to the next (null). */
export type Taker = (asking: Asking) => Response | null;

/**
 * An event of a person while the places are asked about it, one after the other. What several of them look at
 * is worked out once, when it is first looked at: who answers before changes nothing of it.
 */
export class Asking {
  /** What the event says in words, where it does. */
  readonly text: string | null;
  /** Cues of places 5 and 7 that hear it, best first. */
  readonly heard: readonly HeardCue[];
  /** A word about being written to at all. */
  readonly consent: ConsentWord | null;
  /** Who was passed over so far. */
  readonly passed: Candidate[] = [];
  #free: HeardCue[] | null = null;
  #barred: Candidate[] = [];
  #reading: { of: StepReading | null } | null = null;

  /**
   * `isFirst`: the person had never been heard from. `unseen`: runs whose question was held back and is only
   * shown now.
   */
  constructor(
    readonly turn: Turn,
    readonly incoming: Asked,
    private readonly isFirst: boolean,
    private readonly unseen: readonly string[],
  ) {
    this.text = textOf(incoming);
    this.heard = heardBy(turn.world, incoming, this.text);
    const { line, client } = turn.world;
    this.consent = this.text === null ? null : readConsentWord(this.text, line.channel, client.languages);
  }

  /** A run that asks something which is only shown now: these words are no answer to it. */
  get shownLate(): Run | null {
    const { foremost } = this.turn.runs;
    return foremost?.at?.for === 'reply' && this.unseen.includes(foremost.id) ? foremost : null;
  }
  /** The run that speaks with the person. */
  get run(): Run | null {
    return this.shownLate ? null : this.turn.runs.foremost;
  }
  /** The event as a reply. */
  get reply(): Reply | null {
    return replyOf(this.incoming);
  }
  /** The run's reading of it; null where there is no run, or nothing that a run could read. */
  get reading(): StepReading | null {
    const { run, reply } = this;
    this.#reading ??= { of: run && reply ? this.turn.replies.readable(run, reply) : null };
    return this.#reading.of;
  }
  /** Cues that hear it and may start now. */
  get free(): readonly HeardCue[] {
    return (this.#free ??= this.#weigh());
  }
  /** Cues that hear it and may not start now, with the reason. */
  get barred(): readonly Candidate[] {
    this.#free ??= this.#weigh();
    return this.#barred;
  }
  /** Places 9 and 11 come last: whoever answers before is what they lost to. */
  get outpaced(): Candidate[] {
    return (['first message', 'fallback'] as const).flatMap((place) =>
      this.lastly(place).map((each) =>
        cueCandidate(each, place, 'lost', 'it takes only what nothing else takes'),
      ),
    );
  }

  /** The run that could take any words, while a cue waits for these: another loop's, or these words alone. */
  get yields(): boolean {
    const { run, reading } = this;
    if (!run || !reading?.ok || !reading.yields) return false;
    const [best] = this.free;
    return (
      best !== undefined && (best.loopId !== run.loopId || (isKeyword(best) && best.match === 'exactly'))
    );
  }

  /** Cues of place 9 or 11 that hear it; those of the first message only where it is that. */
  lastly(place: 'first message' | 'fallback'): HeardCue[] {
    const { cues, line } = this.turn.world;
    return place === 'first message' && !this.isFirst ? [] : hearOther(cues, place, line.key);
  }

  /** The run that waits and cannot read it, as a candidate, where there is one. */
  unread(outcome: 'won' | 'lost', more = ''): Candidate[] {
    const { run, reading, incoming } = this;
    if (run?.at?.for !== 'reply') return [];
    const isNoAnswer = incoming.kind === 'menu' || incoming.kind === 'reference';
    const why = reading?.ok
      ? 'its sources are asked only what no cue hears'
      : reading
        ? reading.reason
        : isNoAnswer
          ? 'a tap on a link or the menu is no answer'
          : `a ${incoming.kind} cannot be read`;
    const reason = `the run waits for a reply, but ${why}${more}`;
    return [runCandidate(this.turn, run, 'waiting run cannot read it', outcome, reason)];
  }

  #weigh(): HeardCue[] {
    const { turn } = this;
    const weighed = this.heard.map((each) => ({
      heard: each,
      whyNot: turn.world.version(each.loopId, each.version) ? whyNotNow(turn, each) : 'its version is gone',
    }));
    this.#barred = weighed.flatMap(({ heard, whyNot }) =>
      whyNot === null ? [] : [cueCandidate(heard, placeOfCue(heard), 'lost', whyNot)],
    );
    return weighed.flatMap(({ heard, whyNot }) => (whyNot === null ? [heard] : []));
  }
}

function textOf(incoming: Asked): string | null {
  if (incoming.kind === 'text') return incoming.text;
  if (incoming.kind === 'reference') return incoming.text;
  return incoming.kind === 'menu' ? incoming.item.replace(/[_-]/g, ' ') : null;
}

function replyOf(incoming: Asked): Reply | null {
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
function heardBy(world: World, incoming: Asked, text: string | null): HeardCue[] {
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
