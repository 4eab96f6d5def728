import type { Change } from '../../engine/steps';
import { fieldKey } from '../../language/slug';
import { isDayMove } from '../../time/dayMoves';

/**
 * One change of a `set` as the script words it: "town = Harwick", "visits plus 1", "recall = visit +6 weeks,
 * end of month", "seen = now", "nickname = copy of first name", "note cleared", "tag vip on", "list News
 * joined", "opted in". Null when it is none.
 */
export function readChange(written: string): Change | null {
  const text = written.trim();
  const [, kind, name, does] = /^(tag|list) (.{1,60}?) (on|off|joined|left)$/i.exec(text) ?? [];
  if (kind && name && does)
    return kind.toLowerCase() === 'tag'
      ? { do: does === 'off' || does === 'left' ? 'remove tag' : 'add tag', tag: name }
      : { do: does === 'off' || does === 'left' ? 'leave list' : 'join list', list: name };
  const [, opted] = /^opt(?:ed)? (in|out)(?: (?:on|of) this line)?$/i.exec(text) ?? [];
  if (opted) return { do: opted.toLowerCase() === 'in' ? 'opt in' : 'opt out' };
  const [, cleared] = /^([\w ]{1,40}?) cleared$/i.exec(text) ?? [];
  if (cleared) return { do: 'clear', field: fieldKey(cleared) };
  const [, number, by, amount] =
    /^([\w ]{1,40}?) (plus|minus|times|divided by) (\S.{0,199})$/i.exec(text) ?? [];
  if (number && by && amount)
    return { do: 'calculate', field: fieldKey(number), by: by.toLowerCase() as 'plus', amount };
  const [, field, value] = /^([\w ]{1,40}?)\s*(?:=|\bto\b)\s*(.+)$/is.exec(text) ?? [];
  if (field === undefined || value === undefined) return null;
  const key = fieldKey(field);
  if (/^now$/i.test(value)) return { do: 'now', field: key };
  const [, copied] = /^copy of ([\w ]{1,40})$/i.exec(value) ?? [];
  if (copied) return { do: 'copy', field: key, from: fieldKey(copied) };
  if (isReckoning(value)) return reckoned(key, value);
  return reckoned(key, value) ?? { do: 'field', field: key, value };
}

/** Whether a value begins as a day that is reckoned does: it is no text then, whatever follows. */
const isReckoning = (value: string): boolean => /^[a-z][\w ]{0,39}?\s*,?\s*[+-] ?\d{1,4} [a-z]/i.test(value);

/** "Visit +6 weeks, end of month"; null where it moves no day. */
function reckoned(field: string, value: string): Change | null {
  const [, from, moved] = /^([a-z][\w ]{0,39}?)\s*(?:,\s*|(?=[+-] ?\d))(.+)$/i.exec(value) ?? [];
  if (from === undefined || moved === undefined) return null;
  const moves = moved
    .split(/\s*,\s*|\s+(?=[+-] ?\d)/)
    .map((each) => each.toLowerCase().replace(/^([+-]) /, '$1'))
    .filter(Boolean);
  if (moves.length === 0 || moves.length > 5 || !moves.every(isDayMove)) return null;
  return { do: 'date', field, ...(!/^today$/i.test(from) && { from: fieldKey(from) }), moves };
}
