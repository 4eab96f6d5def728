import type { Failure } from '../channels/adapter';

/** Why a message waits or failed, where it was not the channel that said so. */

export const CAPPED: Failure = {
  code: 'cap',
  reason: 'A cap of the line is reached: no more messages that nobody asked for go out today.',
  remedy: 'It goes out after midnight, or at once when the person writes; the caps are on the line’s page.',
};

export const QUIET_HOURS: Failure = {
  code: 'quiet hours',
  reason: 'Held back: it is too early or too late for the person.',
  remedy: 'It goes out when their quiet hours are over, or at once when they write.',
};

export const OFTEN: Failure = {
  code: 'frequency',
  reason: 'Held back: the person has had as many messages as the client allows for a day or a week.',
  remedy: 'It goes out when that time is over, or at once when they write.',
};

export const WINDOW_SHUT: Failure = {
  code: 'window shut',
  reason: 'Held back: the time in which the line may write to the person ended before it could be sent.',
  remedy: 'It goes out when the person writes again.',
};

export const OWN_FAULT: Failure = {
  code: 'fault',
  reason: 'The program met a fault of its own when it handed the message to the channel.',
  remedy: 'It is tried again with growing pauses; if it fails each time, look at the step that sends it.',
};

export const givenUp = (tries: number, failure: Failure): Failure => ({
  ...failure,
  reason: `Given up after ${tries} tries. ${failure.reason}`,
});
