import { parsePhoneNumberFromString } from 'libphonenumber-js';
import isEmail from 'validator/lib/isEmail.js';
import { z } from 'zod';
import { LocalId, NEXT } from '../../loops/model/basics';
import { BY_ITSELF, go, type StepKind } from './step';

/**
 * Tells staff by email, SMS (a number with its country code) or Telegram (the chat id of somebody who has
 * written to the client's bot).
 */
export const Alert = z
  .object({
    id: LocalId,
    kind: z.literal('alert'),
    by: z.enum(['email', 'sms', 'telegram']),
    to: z.array(z.string().trim().min(1).max(254)).max(20),
    subject: z.string().trim().max(200).optional(),
    text: z.string().trim().min(1, 'an alert needs a text').max(4_000),
  })
  .strict()
  .superRefine((step, context) => {
    for (const [index, to] of step.to.entries()) {
      const right =
        step.by === 'email'
          ? isEmail(to)
          : step.by === 'sms'
            ? (parsePhoneNumberFromString(to)?.isPossible() ?? false)
            : /^-?\d{3,20}$/.test(to);
      const wanted = {
        email: 'an email address',
        sms: 'a number with its country code',
        telegram: 'the number of a Telegram chat',
      }[step.by];
      if (!right)
        context.addIssue({ code: 'custom', path: ['to', index], message: `“${to}” is not ${wanted}` });
    }
    if (step.subject !== undefined && step.by !== 'email')
      context.addIssue({ code: 'custom', path: ['subject'], message: 'only an email has a subject' });
  });
export type Alert = z.infer<typeof Alert>;

export const alert: StepKind<Alert> = {
  enter(step, play) {
    play.alert(step.by, step.to, play.merge(step.subject ?? ''), play.merge(step.text));
    play.note({ code: 'alert', by: step.by, to: step.to.length });
    return go(NEXT);
  },
  exits: () => [],
  fallsTo: () => BY_ITSELF,
  texts: (step) => [step.text, step.subject ?? ''],
  words: (step) =>
    `${step.to.join(', ') || 'nobody yet'} by ${step.by === 'sms' ? 'SMS' : step.by === 'telegram' ? 'Telegram' : 'email'}: “${step.subject ? `${step.subject}. ` : ''}${step.text}”`,
};
