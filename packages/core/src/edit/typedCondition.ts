import type { Comparison, Condition } from '../model/condition';
import { CHANNELS } from '../channels';
import { CHANNEL_KINDS, type ChannelKind } from '../model/client';
import { fieldKey } from '../words/slug';
import { readDuration } from './typedTime';

/** From the longest on, so that "is not" is not read as "is". */
const COMPARED: [string, Comparison][] = [
  ['is not known', 'unknown'],
  ['is unknown', 'unknown'],
  ['is known', 'known'],
  ['changed in the last', 'changed in the last'],
  ['is in the next', 'in the next'],
  ['is in the last', 'in the last'],
  ['is at least', 'at least'],
  ['is at most', 'at most'],
  ['is above', 'above'],
  ['is below', 'below'],
  ['is before', 'before'],
  ['is after', 'after'],
  ['starts with', 'starts with'],
  ['contains', 'contains'],
  ['is not', 'not equal'],
  ['>=', 'at least'],
  ['<=', 'at most'],
  ['>', 'above'],
  ['<', 'below'],
  ['!=', 'not equal'],
  ['=', 'equal'],
  ['is', 'equal'],
];

/**
 * A condition as it is typed: "town is Harwick", "party size is at least 8", "tag vip", "not in list News", "on sms",
 * "open", "email is known", two of them with "and" or "or". Null when it cannot be read.
 */
export function readCondition(written: string): Condition | null {
  const text = written.trim();
  const parted = (word: 'and' | 'or') => text.split(new RegExp(`\\s+${word}\\s+`, 'i'));
  for (const [word, key] of [
    ['or', 'any'],
    ['and', 'all'],
  ] as const) {
    const parts = parted(word);
    if (parts.length < 2) continue;
    const read = parts.map(readCondition);
    return read.every((each) => each !== null) ? { [key]: read } : null;
  }
  const [, no, bare = ''] = /^(not\s+)?(.*)$/is.exec(text) ?? [];
  const negated = no !== undefined;
  const found = readPlain(bare.trim());
  if (!found || !negated) return found;
  return found.tag !== undefined || found.list !== undefined ? { ...found, is: false } : found.open ? { open: false } : { not: found };
}

function readPlain(text: string): Condition | null {
  if (/^open$/i.test(text)) return { open: true };
  if (/^(closed|shut)$/i.test(text)) return { open: false };
  const tag = /^(?:tagged|tag|has tag)\s+(.+)$/i.exec(text);
  if (tag) return { tag: tag[1]!.trim() };
  const list = /^(?:in\s+|on\s+)?list\s+(.+)$/i.exec(text);
  if (list) return { list: list[1]!.trim() };
  const on = /^on\s+(.+)$/i.exec(text);
  const channels = on?.[1]!.split(/\s*,\s*/).map(readChannel);
  if (channels?.every((each) => each !== null)) return { channels: channels as ChannelKind[] };
  const language = /^language\s+(?:is\s+)?([a-z]{2})$/i.exec(text);
  if (language) return { language: language[1]!.toLowerCase() };
  for (const [words, is] of COMPARED) {
    const pattern = /^[<>=!]/.test(words) ? `^(.+?)\\s*${words}\\s*(.*)$` : `^(.+?)\\s+${words}(?:\\s+(.*))?$`;
    const [, field, value = ''] = new RegExp(pattern, 'is').exec(text) ?? [];
    if (field === undefined) continue;
    const subject = { field: fieldKey(field) };
    if (is === 'known' || is === 'unknown') return value === '' ? { ...subject, is } : null;
    if (value.trim() === '') return null;
    if (is === 'in the next' || is === 'in the last' || is === 'changed in the last') {
      const time = readDuration(value);
      return time ? { ...subject, is, value: time } : null;
    }
    return { ...subject, is, value: valueOf(value.trim()) };
  }
  return null;
}

function readChannel(words: string): ChannelKind | null {
  const said = words.trim().toLowerCase();
  return (
    CHANNEL_KINDS.find(
      (kind) => kind === said || CHANNELS[kind].mark.toLowerCase() === said || CHANNELS[kind].name.toLowerCase() === said,
    ) ?? null
  );
}

const valueOf = (text: string): string | number | boolean =>
  /^-?\d+(\.\d+)?$/.test(text)
    ? Number(text)
    : /^(yes|true)$/i.test(text)
      ? true
      : /^(no|false)$/i.test(text)
        ? false
        : text.replace(/^["“](.*)["”]$/, '$1');
