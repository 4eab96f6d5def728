import { finished, passedOver, won } from '../response';
import type { Taker } from './asking';

/** Place 3: a person of the team has the conversation. */
export const teamHasIt: Taker = ({ turn, heard }) => {
  const { held } = turn.standing;
  if (!held) return null;
  const who = held.by ?? held.team ?? 'whoever is there';
  turn.note({ code: 'recorded', who });
  const reason = held.by
    ? `${held.by} has stepped in: it is recorded, and no loop answers`
    : `the conversation was handed over to ${who}: it is recorded, and no loop answers`;
  const candidates = [
    won('a person has stepped in', who, reason),
    ...passedOver(heard, 'a person has the conversation'),
  ];
  return finished(turn, { candidates }, 'waiting on us');
};
