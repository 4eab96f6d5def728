import { type LineFacts, type Standing, type PersonFacts, tieOf, fold, stranger } from '@dart-loop/core';
import { holidaysOf } from '@dart-loop/core/time/holidays';
import type { Published } from '../loops/liveLoops';
import { knownBy, type StoredPerson } from '../people/stored';
import type { PersonRow, Profile, Claimed } from './claimed';
import { sameJson } from '@dart-loop/core/sameJson';

/** The person as they are known before anything is answered; one who writes for the first time is new. */
export function personFrom(
  row: PersonRow,
  {
    id,
    line,
    standing,
    profile,
    now,
  }: { id: string; line: LineFacts; standing: Standing; profile: Profile | undefined; now: number },
): PersonFacts {
  const beside = (row.beside ?? []).map((other) => tieOf(other.line, other.standing));
  const known = isKnown(row) ? knownBy({ ...row, id }) : stranger(id, now);
  return {
    ...known,
    firstName: known.firstName ?? profile?.firstName ?? null,
    lastName: known.lastName ?? profile?.lastName ?? null,
    language: profile?.language ?? known.language,
    ties: row.known_person_id === null ? [] : [tieOf(line, standing), ...beside],
  };
}
const isKnown = (row: PersonRow): row is PersonRow & Omit<StoredPerson, 'id'> => row.created_at !== null;
export const numberOf = ({ address }: Claimed) => (address.startsWith('+') ? address : null);
export const differing = <T>(after: Record<string, T>, earlier: Record<string, T>) =>
  Object.fromEntries(Object.entries(after).filter(([key, value]) => earlier[key] !== value));
export const without = (after: string[], earlier: string[]) =>
  after.filter((each) => !earlier.includes(each));
/** Whether terms or texts of a person are others now. Most events change none. */
export function isFoundOtherwise(before: PersonFacts, after: PersonFacts): boolean {
  const passages = (person: PersonFacts) =>
    Object.entries(person.history).map(([loopId, { finished }]) => `${loopId}${finished === null}`);
  return !(
    sameJson(before.fields, after.fields) &&
    sameJson(before.tags, after.tags) &&
    sameJson(before.lists, after.lists) &&
    sameJson(before.ties, after.ties) &&
    before.firstName === after.firstName &&
    before.lastName === after.lastName &&
    before.language === after.language &&
    (before.history === after.history || sameJson(passages(before), passages(after)))
  );
}
export const worldOf = (
  { facts, fields, cues, named, segments, loopIds, lists }: Published,
  now: number,
) => ({
  client: facts,
  fields,
  cues,
  segments,
  loopIds,
  lists,
  holidays: () => holidaysOf(facts.country, facts.languages, new Date(now).getUTCFullYear()),
  liveLoop: (name: string) => named.get(fold(name)) ?? null,
});
