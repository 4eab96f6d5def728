import { fold } from '../../language/fold';
import type { FromStaff, Incoming } from '../decide';
import { notSaid, type FromSources } from '../steps/fromSources';
import type { Offered, Rehearsal } from './state';

/**
 * One line of a written conversation: what the person, the clock, staff or other systems do, or what is
 * expected of us.
 */
export type ScriptLine =
  | { kind: 'text'; text: string }
  | { kind: 'tap'; number: number | null; label: string | null }
  | { kind: 'wind'; ms: number }
  | { kind: 'skip' }
  | { kind: 'reference'; ref: string }
  | { kind: 'ad'; ad: string; ref: string | null }
  | { kind: 'comment'; post: string; text: string }
  | { kind: 'menu'; item: string }
  | { kind: 'file'; name: string }
  | { kind: 'place'; latitude: number; longitude: number }
  | { kind: 'happens'; incoming: Incoming; words: string }
  | { kind: 'scene'; scene: string }
  | { kind: 'channel'; refuses: boolean }
  | { kind: 'delivered'; ok: boolean; reason: string; body: unknown }
  | { kind: 'expect'; words: string | null };

const UNIT_MS: Record<string, number> = { s: 1_000, m: 60_000, h: 3_600_000, d: 86_400_000 };

/** Reads one line. Null for an empty line or a remark (//). A text gives the reason why it cannot be read. */
export function readScriptLine(written: string): ScriptLine | string | null {
  const line = written.trim();
  if (line === '' || line.startsWith('//')) return null;
  const number = /^#(\d{1,2})$/.exec(line);
  if (number) return { kind: 'tap', number: Number(number[1]), label: null };
  const label = /^\[(.+)\]$/.exec(line);
  if (label) return { kind: 'tap', number: null, label: label[1]! };
  const wound = /^\+((?:\d{1,6}[smhd]\s*)+)$/.exec(line);
  if (wound)
    return {
      kind: 'wind',
      ms: [...wound[1]!.matchAll(/(\d+)([smhd])/g)].reduce(
        (sum, [, count, unit]) => sum + Number(count) * UNIT_MS[unit!]!,
        0,
      ),
    };
  if (line === '+next') return { kind: 'skip' };
  if (/^\+\d+[a-z]*$/i.test(line) && line.length < 6)
    return `“${line}” is no time to wind the clock by; write +30m, +3h or +2d`;
  const start = /^\/start\s+([A-Za-z0-9_-]{1,64})$/.exec(line);
  if (start) return { kind: 'reference', ref: start[1]! };
  const menu = /^\/([a-z0-9_]{1,32})$/i.exec(line);
  if (menu) return { kind: 'menu', item: menu[1]!.toLowerCase() };
  const ad = /^\/ad\s+(\S{1,100})(?:\s+([A-Za-z0-9_-]{1,64}))?$/.exec(line);
  if (ad) return { kind: 'ad', ad: ad[1]!, ref: ad[2] ?? null };
  const scene = /^\/scene\s+([a-z0-9][a-z0-9-]{0,15})$/.exec(line);
  if (scene) return { kind: 'scene', scene: scene[1]! };
  if (line.startsWith('>')) return { kind: 'expect', words: line.slice(1).trim() || null };
  const file = /^@file\s+(.+)$/.exec(line);
  if (file) return { kind: 'file', name: file[1]! };
  const place = /^@place\s+(-?\d+(?:\.\d+)?)\s*,\s*(-?\d+(?:\.\d+)?)$/.exec(line);
  if (place) return { kind: 'place', latitude: Number(place[1]), longitude: Number(place[2]) };
  if (line.startsWith('!')) return readDelivery(line.slice(1).trim());
  if (line.startsWith('~')) return readHappening(line.slice(1).trim());
  return { kind: 'text', text: written.replace(/\r?\n$/, '') };
}

function readDelivery(words: string): ScriptLine | string {
  if (words === 'failed') return { kind: 'delivered', ok: false, reason: 'it was not delivered', body: null };
  const fromSources = readFromSources(words);
  if (fromSources) return { kind: 'delivered', ok: true, reason: '', body: fromSources };
  const found = /^(\d{3})(?:\s+(.+))?$/.exec(words);
  if (!found)
    return `“! ${words}” is no answer to what was sent out or asked; write ! failed, ! 200, ! 200 {"id": 7}, ! says WORDS, ! offers LABEL: WORDS | LABEL: WORDS or ! not known`;
  let body: unknown = {};
  if (found[2])
    try {
      body = JSON.parse(found[2]);
    } catch {
      return `“${found[2]}” is not JSON`;
    }
  const ok = found[1]!.startsWith('2');
  return { kind: 'delivered', ok, reason: ok ? '' : `it was answered ${found[1]}`, body };
}

/** What the sources say, as it is written by hand; null where it is something else. */
function readFromSources(words: string): FromSources | null {
  const nothing = notSaid('');
  if (words === 'not known') return [nothing];
  const [, verb, rest = ''] = /^(says|offers)\s+(.+)$/s.exec(words) ?? [];
  if (verb === undefined) return null;
  if (verb === 'says') return [{ ...nothing, came: 'answered', text: rest }];
  const offers = rest.split('|').map((offer) => {
    const [label = '', ...text] = offer.split(':').map((part) => part.trim());
    return { label, text: text.join(': ') || label, passage: null };
  });
  return [{ ...nothing, came: 'offered', offers }];
}

function readHappening(words: string): ScriptLine | string {
  const staff = (incoming: FromStaff): ScriptLine => ({ kind: 'happens', incoming, words });
  const happens = (incoming: Incoming): ScriptLine => ({ kind: 'happens', incoming, words });
  const [, verb, rest = ''] =
    /^(step in|hand back|say|webhook|comment|lead|tag|untag|join|block|unblock|channel refuses|channel works)\b\s*(.*)$/.exec(
      words,
    ) ?? [];
  switch (verb) {
    case 'step in':
      return staff({ kind: 'step in', by: rest || 'somebody of the team' });
    case 'say':
      return rest ? staff({ kind: 'write', by: '', text: rest }) : '“~ say” needs the words';
    case 'hand back':
      return staff({
        kind: 'hand back',
        by: '',
        how: rest === '' ? 'resume' : rest === 'end' ? 'end' : { scene: rest },
      });
    case 'webhook':
      return happens({ kind: 'webhook', hook: rest, name: rest });
    case 'comment': {
      const [, post = 'post', text = ''] = /^(?:@(\S+)\s+)?(.*)$/s.exec(rest) ?? [];
      return text === '' ? '“~ comment” needs the words' : { kind: 'comment', post, text };
    }
    case 'lead': {
      const [, form, answers = '{}'] = /^(\S+)\s*(\{.*\})?$/s.exec(rest) ?? [];
      try {
        return form === undefined
          ? '“~ lead” needs the id of the form'
          : happens({ kind: 'lead', form, ad: null, answers: JSON.parse(answers) as Record<string, string> });
      } catch {
        return `“${answers}” is not JSON`;
      }
    }
    case 'tag':
    case 'untag':
      return happens({ kind: 'tag', tag: rest, on: verb === 'tag', depth: 0 });
    case 'join':
      return happens({ kind: 'list', list: rest, depth: 0 });
    case 'block':
    case 'unblock':
      return happens({ kind: 'blocked', on: verb === 'block' });
    case 'channel refuses':
    case 'channel works':
      return { kind: 'channel', refuses: verb === 'channel refuses' };
    default:
      return `“~ ${words}” is not known; write ~ step in, ~ say WORDS, ~ hand back, ~ webhook NAME, ~ comment WORDS, ~ lead FORM, ~ tag NAME, ~ untag NAME, ~ join LIST, ~ block, ~ unblock, ~ channel refuses or ~ channel works`;
  }
}

/**
 * What a line does in a rehearsal, and how it looks from the person's side; a text says why it cannot be
 * done.
 */
export function incomingOf(
  line: ScriptLine,
  rehearsal: Rehearsal,
  taps: boolean,
): { incoming: Incoming; said: string | null } | string {
  switch (line.kind) {
    case 'text':
      return { incoming: { kind: 'text', text: line.text }, said: line.text };
    case 'reference':
      return {
        incoming: { kind: 'reference', ref: line.ref, ad: null, text: null },
        said: `/start ${line.ref}`,
      };
    case 'ad':
      return {
        incoming: { kind: 'reference', ref: line.ref, ad: line.ad, text: null },
        said: '(clicks the ad)',
      };
    case 'comment':
      return {
        incoming: {
          kind: 'comment',
          verb: 'add',
          id: `comment-${rehearsal.events}`,
          postId: line.post,
          text: line.text,
          at: rehearsal.now,
          postedAt: rehearsal.now,
          nested: false,
        },
        said: `(comments) ${line.text}`,
      };
    case 'menu':
      return { incoming: { kind: 'menu', item: line.item }, said: `/${line.item}` };
    case 'file':
      return {
        incoming: { kind: 'file', file: { address: line.name, name: line.name, what: 'file' } },
        said: `(file ${line.name})`,
      };
    case 'place':
      return {
        incoming: { kind: 'place', place: { latitude: line.latitude, longitude: line.longitude } },
        said: `(place ${line.latitude}, ${line.longitude})`,
      };
    case 'happens': {
      const { incoming } = line;
      // Whoever has the conversation goes on with it.
      const by = rehearsal.standing.held?.by ?? 'somebody of the team';
      return {
        incoming: 'by' in incoming && incoming.by === '' ? { ...incoming, by } : incoming,
        said: null,
      };
    }
    case 'tap': {
      const { offered, offeredBefore } = rehearsal;
      const named = (each: Offered) =>
        each.label === line.label || each.shown === line.label || fold(each.label) === fold(line.label!);
      const at = line.number !== null ? line.number - 1 : offered.findIndex(named);
      // A label may name a button of an earlier message: that is a late tap.
      const choice = offered[at] ?? (line.label !== null && taps ? offeredBefore.findLast(named) : undefined);
      if (!choice)
        return offered.length === 0
          ? 'there is nothing to tap yet'
          : `there is no such choice to tap; there are ${offered.map((each) => `“${each.label}”`).join(', ')}`;
      if (!taps) return { incoming: { kind: 'text', text: choice.typed }, said: choice.typed };
      return { incoming: { kind: 'tap', ...choice.ref, label: choice.label }, said: choice.label };
    }
    case 'wind':
    case 'skip':
    case 'scene':
    case 'channel':
    case 'delivered':
    case 'expect':
      throw new Error(`a line of the kind ${line.kind} is no event`);
  }
}
