import { CHANNELS } from '../../channels';
import { durationMs, type Target } from '../../loops/model/basics';
import { findStep, type LoopVersion, type StepPlace } from '../../loops/model/loop';
import { saysDontKnow } from '../../language/answers';
import { fold } from '../../language/fold';
import { isMoreWord, phrases } from '../../language/phrases';
import { gatherTimer, type Run } from './run';
import { kindOf, questionsOf, waitingOf, type Aside, type Reply, type StepReading } from '../steps';
import { go } from '../steps/step';
import type { Turn } from './turn';

/**
 * What stays when it is asked again: times that were offered, what was named so far and what is still open; a
 * question of ours about an answer does not.
 */
function keptOver(aside: Aside | undefined): Aside | null {
  if (aside?.kind === 'parts') return aside.open.length === 0 ? aside : { kind: 'parts', open: aside.open };
  return aside?.kind === 'times' || aside?.kind === 'anything else' ? aside : null;
}

/** What somebody says to a run that waits for it: whether it can be read, and what becomes of it. */
export class Replies {
  constructor(private readonly turn: Turn) {}

  /** Shows the waiting step's choices from another one on. False when the run waits for no choice there. */
  showFrom(run: Run, stepId: string, from: number): boolean {
    const version = this.turn.runs.versionOf(run);
    const reading =
      version && run.at?.for === 'reply' && run.at.step === stepId
        ? this.furtherChoices(version, stepId, run, from)
        : null;
    if (!version || !reading) return false;
    this.turn.playing.proceed(run.id, version, stepId, (play) => reading.take(play), false, run.tries);
    return true;
  }

  /**
   * The showing of a step's choices from another one on, as a reading of what was tapped; null where the step
   * has none there.
   */
  furtherChoices(
    version: LoopVersion,
    stepId: string,
    run: Run | null,
    from: number,
  ): Extract<StepReading, { ok: true }> | null {
    const place = findStep(version.loop, stepId);
    const aside = run?.at?.step === stepId ? (run.at.aside ?? null) : null;
    const choices = place && kindOf(place.step).choices?.(place.step, this.turn.stepWorld(run), aside);
    if (!choices || from >= choices.length) return null;
    return {
      ok: true,
      summary: 'a wish for further choices',
      take: (play) => {
        play.note({ code: 'more shown', from, of: choices.length });
        play.say(phrases(this.turn.language).moreHere, choices, { from });
        return { kind: 'wait', for: 'reply', from, ...(aside && { aside }) };
      },
    };
  }

  /**
   * From which choice on somebody who writes "more" is to see them; null when all were shown, or the word is
   * none of ours.
   */
  moreAsked(run: Run, text: string): number | null {
    const place = this.#waitsAt(run);
    const count =
      (place && kindOf(place.step).choices?.(place.step, this.turn.stepWorld(run), run.at?.aside ?? null))
        ?.length ?? 0;
    const { most, page } = CHANNELS[this.turn.world.line.channel].choices;
    if (count <= most || !isMoreWord(text)) return null;
    const next = (run.at!.from ?? 0) + page;
    return next < count ? next : 0;
  }

  /** Whether a run waits at a step that can read the reply; null when it does not wait for one. */
  readable(run: Run, reply: Reply): StepReading | null {
    const version = this.turn.runs.versionOf(run);
    return version && run.at?.for === 'reply'
      ? this.readAt(version, run.at.step, reply, run, run.at.aside ?? null)
      : null;
  }

  readAt(
    version: LoopVersion,
    stepId: string,
    reply: Reply,
    run: Run | null,
    aside: Aside | null,
  ): StepReading | null {
    const place = findStep(version.loop, stepId);
    const reading = place && kindOf(place.step).read?.(place.step, reply, this.turn.stepWorld(run), aside);
    if (!place || !reading) return null;
    const takesAnything =
      place.step.kind === 'ask' && questionsOf(place.step).some(({ reply: type }) => type === 'text');
    if (reply.kind !== 'text' || (reading.ok && !takesAnything) || !saysDontKnow(fold(reply.text)))
      return reading;
    const to = waitingOf(place.step)?.dontKnow;
    if (!to) return reading.ok ? reading : { ...reading, doesNotKnow: true };
    return {
      ok: true,
      summary: 'that they do not know',
      take(play) {
        play.note({ code: 'does not know', to: play.where(to) });
        return go(to);
      },
    };
  }

  /**
   * Plays a reply that the waiting step can read; several messages are gathered first, where the step wants
   * that. `isWhole`: they have been.
   */
  take(run: Run, reply: Reply, reading: Extract<StepReading, { ok: true }>, isWhole = false): void {
    const version = this.turn.runs.versionOf(run)!;
    const stepId = run.at!.step;
    const step = findStep(version.loop, stepId)!.step;
    // "Thanks" after half a question does not end it.
    const more = reading.gathers || (step.kind === 'answer' && run.gathered.length > 0 && !isWhole);
    if (more && (step.kind === 'ask' || step.kind === 'answer') && reply.kind === 'text')
      return this.gather(run, reply.text, step.gather!);
    this.turn.words = null;
    this.turn.playing.proceed(run.id, version, stepId, (play) => reading.take(play));
  }

  gather(run: Run, text: string, time: string): void {
    const ms = durationMs(time);
    this.turn.runs.keep({ ...run, gathered: [...run.gathered, text].slice(-50) });
    this.turn.setTimer(gatherTimer(run.id), this.turn.world.now + ms, {
      kind: 'timer',
      runId: run.id,
      turn: run.turn,
      what: 'gathered',
    });
    this.turn.note({ code: 'gathering', seconds: Math.round(ms / 1_000) });
  }

  /** How long the step gathers messages that answer it; null when it does not. */
  gathersFor(run: Run): string | null {
    const step = this.#waitsAt(run)?.step;
    const gathers = step?.kind === 'answer' || (step?.kind === 'ask' && !run.at?.aside);
    return gathers ? (step.gather ?? null) : null;
  }

  /** Where words that call off lead from the step the run waits at; null when it has no such exit. */
  calledOff(run: Run): Target | null {
    const place = this.#waitsAt(run);
    return (place && waitingOf(place.step)?.cancel) ?? null;
  }

  callOff(run: Run, to: Target): void {
    this.turn.words = null;
    this.turn.playing.lead(run, to, (where) => ({ code: 'called off', to: where }));
  }

  /** Whether an unreadable reply would be answered: by an exit or a retry. */
  answersUnread(run: Run): boolean {
    const place = this.#waitsAt(run);
    const waiting = place && waitingOf(place.step);
    return Boolean(
      waiting &&
      (waiting.somethingElse || waiting.otherwise || (waiting.retry && run.tries < waiting.retry.times)),
    );
  }

  /**
   * Plays a reply that could not be read: its exit for something else, else asked again, else the exit. Only
   * where {@link answersUnread}.
   */
  retryOrExit(run: Run, { reason, doesNotKnow }: Extract<StepReading, { ok: false }>): void {
    const version = this.turn.runs.versionOf(run)!;
    const { step } = findStep(version.loop, run.at!.step)!;
    const waiting = waitingOf(step)!;
    if (waiting.somethingElse)
      return this.turn.playing.lead(run, waiting.somethingElse, (to) => ({ code: 'something else', to }));
    const of = waiting.retry?.times ?? 0;
    // Who does not know is asked once more: whatever cannot be read after that leaves.
    const tries = doesNotKnow && run.tries < of ? of : run.tries + 1;
    this.turn.note({ code: 'could not read', reason, tries, of });
    if (waiting.retry && tries <= of) {
      const text = waiting.variants?.[this.turn.language]?.retry ?? waiting.retry.text;
      return this.turn.playing.proceed(
        run.id,
        version,
        step.id,
        (play) => {
          const aside = keptOver(run.at?.aside);
          play.say(text, kindOf(step).choices?.(step, play.world, aside));
          return { kind: 'wait', for: 'reply', ...(aside && { aside }) };
        },
        false,
        tries,
      );
    }
    this.turn.playing.lead(run, waiting.otherwise!, (to) => ({ code: 'gave up', to }));
  }

  /** The step at which a run waits for a reply; null when it does not. */
  #waitsAt(run: Run): StepPlace | null {
    const version = this.turn.runs.versionOf(run);
    return version && run.at?.for === 'reply' ? findStep(version.loop, run.at.step) : null;
  }
}
