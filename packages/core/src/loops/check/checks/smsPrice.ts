import { counted } from '../../../language/counted';
import { smsParts } from '../../../channels/gsm';
import { textEdits } from '../../edit/textEdits';
import { check } from '../check';
import { textsOf } from '../texts';

/** Look like one of the seven-bit alphabet, and make an SMS dear. */
const PLAIN: Record<string, string> = {
  '‘': "'",
  '’': "'",
  '‚': "'",
  '“': '"',
  '”': '"',
  '„': '"',
  '–': '-',
  '—': '-',
  '‑': '-',
  '…': '...',
  '•': '-',
  '\u00a0': ' ',
  '\u202f': ' ',
  '\u2009': ' ',
  '`': "'",
};

/** Characters that make an SMS dear, and texts that take several parts. */
export const smsPrice = check<'dear character' | 'sms parts'>(function* (world) {
  const sms = world.lines.find((line) => line.channel === 'sms');
  if (!sms) return;
  for (const place of world.places) {
    const { step, where, at } = place;
    const messages = world.landings(place, sms).flatMap((landing) => landing.messages);
    const parts = messages.reduce((sum, message) => sum + (message.parts ?? 1), 0);
    if (parts === 0) continue;
    const dear = [...new Set(messages.flatMap((message) => smsParts(message.text).dear))].filter((each) =>
      textsOf(step).some((text) => text.includes(each)),
    );
    if (dear.length > 0) {
      const cheap = messages
        .map((message) => smsParts(plain(message.text)))
        .reduce((sum, each) => sum + each.parts, 0);
      const mendable = dear.every((each) => each in PLAIN);
      const names = dear
        .slice(0, 5)
        .map((each) => `“${each}”`)
        .join(', ');
      yield {
        ...at,
        code: 'dear character',
        severity: 'warns',
        about: dear.join(''),
        reason: `${names} in ${where} ${dear.length === 1 ? 'is' : 'are'} outside the plain SMS alphabet, so a part holds 70 characters instead of 160: ${counted(parts, 'part')}${mendable && cheap < parts ? `, ${cheap} without` : ''}.`,
        ...(mendable
          ? {
              fix: {
                words: `Write ${dear
                  .slice(0, 3)
                  .map((each) => `“${PLAIN[each]}”`)
                  .join(', ')} instead`,
                edits: textEdits(step, plain),
              },
            }
          : {}),
      };
    }
    if (parts > 1)
      yield {
        ...at,
        code: 'sms parts',
        severity: 'notes',
        reason: `What is said in ${where} takes ${parts} SMS parts, each of them paid for.`,
      };
  }
});

const plain = (text: string) => [...text].map((each) => PLAIN[each] ?? each).join('');
