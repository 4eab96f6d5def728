import { CHANNELS } from '../../channels';
import { usableTemplate } from '../../channels/templates';
import { permission, type Permission } from '../../consent/permission';
import { fold } from '../../language/fold';
import { merge } from '../../language/merge';
import { phrases } from '../../language/phrases';
import type { Said } from '../../channels/said';
import type { StepAt } from '../steps';
import { newStanding } from './standing';
import type { Turn } from './turn';

/** What may be said and how: windows, what a step wants where one is shut, and what was held back. */
export class Voice {
  constructor(private readonly turn: Turn) {}

  /** Says something that no step of a loop says. */
  say(text: string, by: string | null = null): void {
    this.utter({ text, choices: [] }, null, by);
  }

  /** Merges a text that stands outside of any run. */
  mergeOutside(text: string): string {
    return text.includes('{') || text.includes('}') ? merge(text, this.turn.stepWorld(null)) : text;
  }

  /** The program's own answer about being written to at all: one, whatever window there is. */
  confirm(text: string): void {
    this.turn.standing.introduced = true;
    const permission: Permission = { may: 'go', until: null, via: null };
    this.turn.effects.push({
      kind: 'send',
      said: { text, choices: [] },
      at: null,
      by: null,
      permission,
      aboutConsent: true,
    });
  }

  /** Says something, as soon as the channel lets the line write. */
  utter(said: Said, at: StepAt | null, by: string | null): void {
    const { channel } = this.turn.world.line;
    const may = this.#otherwise(
      permission(CHANNELS[channel], this.turn.standing, this.turn.world.now, by !== null),
      said,
    );
    const full: Said = { ...said };
    if (said.choices.length > 3 && this.turn.language !== 'en') full.language = this.turn.language;
    if (channel === 'sms' && !this.turn.standing.introduced) {
      this.turn.standing.introduced = true;
      const { name } = this.turn.world.client;
      if (!fold(said.text).includes(fold(name))) full.text = `${name}: ${said.text}`;
      if (!/\bSTOP\b/.test(said.text)) full.closing = phrases(this.turn.language).howToStop;
    }
    if (may.may === 'elsewhere') {
      this.turn.note({ code: 'said elsewhere', line: may.line });
      this.turn.effects.push({
        kind: 'say elsewhere',
        conversationId: may.conversationId,
        said: { ...said, whenShut: { do: 'drop' } },
        at,
      });
      return;
    }
    if (may.may === 'drop') this.turn.note({ code: 'dropped', reason: may.reason });
    else if (may.may === 'wait') {
      this.turn.standing.holds = true;
      if (!this.turn.notes.some((note) => note.code === 'held back'))
        this.turn.note({ code: 'held back', reason: may.reason });
      if (at && !this.turn.standing.unseen.includes(at.runId))
        this.turn.standing.unseen = [...this.turn.standing.unseen.slice(-9), at.runId];
    } else if (may.via?.kind === 'private reply') {
      this.turn.standing.comment = { ...this.turn.standing.comment!, answered: true };
      this.turn.note({ code: 'answered privately' });
    }
    this.turn.effects.push({ kind: 'send', said: full, at, by, permission: may });
  }

  /**
   * What a step wants where its message may not go now: a template that may, another line of the person's, or
   * nothing at all.
   */
  #otherwise(
    may: Permission,
    { whenShut }: Said,
  ): Permission | { may: 'elsewhere'; conversationId: string; line: string } {
    if (may.may !== 'wait' || !whenShut) return may;
    if (whenShut.do === 'drop') return { may: 'drop', reason: may.reason };
    if (whenShut.do === 'other line') {
      const { beside = [], now } = this.turn.world;
      const open = beside.filter(({ line, standing }) => {
        if (standing.optedOut || standing.held) return false;
        return permission(CHANNELS[line.channel], { ...newStanding(), ...standing }, now, false).may === 'go';
      });
      const [best] = open.sort((a, b) => (b.standing.lastHeardAt ?? 0) - (a.standing.lastHeardAt ?? 0));
      if (best) return { may: 'elsewhere', conversationId: best.conversationId, line: best.line.name };
      this.turn.note({ code: 'no other line' });
      return may;
    }
    const template = usableTemplate(this.turn.world.line.templates ?? [], whenShut, this.turn.language);
    if (typeof template === 'string') {
      this.turn.note({ code: 'template not usable', reason: template });
      return may;
    }
    this.turn.note({ code: 'sent as template', name: template.name });
    return { may: 'go', until: null, via: { kind: 'template', template } };
  }

  /** The person has written or tapped: the window is open, and what was held back may go. */
  hearPerson(byAd: boolean): void {
    const channel = CHANNELS[this.turn.world.line.channel];
    const { now } = this.turn.world;
    const { standing } = this.turn;
    const before = permission(channel, standing, now, false);
    const known = standing.heardFrom || standing.comment !== null || standing.holds;
    standing.heardFrom = true;
    delete standing.stopped;
    // The time is the sender's: what comes late, after an outage, opens the window from when it was written.
    const at = Math.min(this.turn.world.at ?? now, now);
    standing.lastHeardAt = Math.max(standing.lastHeardAt ?? 0, at);
    standing.comment = null;
    if (channel.window)
      standing.openUntil = Math.max(
        standing.openUntil ?? 0,
        at + (byAd ? channel.window.afterAd : channel.window.loop),
      );
    if (!known || (before.may === 'go' && before.via === null)) return;
    if (permission(channel, standing, now, false).may !== 'go') return;
    this.turn.effects.push({ kind: 'release', until: standing.openUntil });
    if (standing.holds) this.turn.note({ code: 'released' });
    standing.holds = false;
  }
}
