import { destinationNamed } from '../../../sync/named';
import { check } from '../check';

/**
 * Destinations and other systems that a loop sends out to: missing, not on, or not taking what was sent to
 * them last.
 */
export const destinations = check<'missing destination' | 'destination at rest' | 'destination failing'>(
  function* ({ places, known }) {
    for (const { step, where, at } of places) {
      if (step.kind !== 'send out') continue;
      const { address, destination: name } = step;
      const reason = address === undefined ? undefined : known.failing?.[address];
      if (address !== undefined && reason !== undefined)
        yield {
          ...at,
          code: 'destination failing',
          severity: 'warns',
          about: address,
          reason: `The address that the send out in ${where} goes to did not take the last delivery: ${reason}.`,
        };
      if (name === undefined || !known.destinations) continue;
      const found = destinationNamed(known.destinations, name);
      const about = name;
      if (!found)
        yield {
          ...at,
          code: 'missing destination',
          severity: 'stops',
          about,
          reason: `The client has no destination “${name}”, to which the send out in ${where} goes.`,
        };
      else if (found.isWhole)
        yield {
          ...at,
          code: 'missing destination',
          severity: 'stops',
          about,
          reason: `“${found.name}”, to which the send out in ${where} goes, is a file that goes out as a whole; one person cannot be sent there.`,
        };
      else if (found.state !== 'on')
        yield {
          ...at,
          code: 'destination at rest',
          severity: 'warns',
          about,
          reason: `The destination “${found.name}”, to which the send out in ${where} goes, is ${found.state}: ${found.state === 'off' ? 'nothing goes there' : 'what is to go there waits'}.`,
        };
      else if (found.failure !== null)
        yield {
          ...at,
          code: 'destination failing',
          severity: 'warns',
          about,
          reason: `The destination “${found.name}”, to which the send out in ${where} goes, did not take the last delivery: ${found.failure}.`,
        };
    }
  },
);
