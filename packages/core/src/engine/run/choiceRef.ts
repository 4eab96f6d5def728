/** What a tapped button brings back: whose run it was offered in, and which choice of which step it is. */
export interface ChoiceRef {
  runId: string;
  stepId: string;
  choiceId: string;
}

/**
 * A reference short enough for every channel's button (Telegram's 64 bytes is the narrowest): the run's UUID
 * in 22 base64url characters, then the ids. 22 + 16 + 16 + 3 = 57 at most.
 */
export function choiceRef({ runId, stepId, choiceId }: ChoiceRef): string {
  return `c${packUuid(runId)}.${stepId}.${choiceId}`;
}

/** What a tap on "More" brings back: the same step, and from which choice on. */
export function moreRef(ref: string, from: number): string {
  return `${ref.slice(0, ref.lastIndexOf('.'))}.+${from}`;
}

/** From which choice on a tap wants to see them; null when it chooses one. */
export function readMore(choiceId: string): number | null {
  return choiceId.startsWith('+') ? Number(choiceId.slice(1)) : null;
}

/** Reads a reference back; null when it is none of ours. */
export function readChoiceRef(ref: string): ChoiceRef | null {
  const found = /^c([A-Za-z0-9_-]{22})\.([a-z0-9-]{1,16})\.([a-z0-9-]{1,16}|\+\d{1,3})$/.exec(ref);
  return found ? { runId: unpackUuid(found[1]!), stepId: found[2]!, choiceId: found[3]! } : null;
}

const DIGITS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_';
const PLACE = new Map([...DIGITS].map((digit, value) => [digit, value]));

/** 16 bytes as 22 base64url characters, without Buffer or btoa so that it is the same everywhere. */
function packUuid(uuid: string): string {
  let bits = BigInt(`0x${uuid.replace(/-/g, '')}`) << 4n;
  let text = '';
  for (let i = 0; i < 22; i++) {
    text = DIGITS[Number(bits & 63n)] + text;
    bits >>= 6n;
  }
  return text;
}

function unpackUuid(text: string): string {
  let bits = 0n;
  for (const digit of text) bits = (bits << 6n) | BigInt(PLACE.get(digit)!);
  const hex = ((bits >> 4n) & ((1n << 128n) - 1n)).toString(16).padStart(32, '0');
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
}
