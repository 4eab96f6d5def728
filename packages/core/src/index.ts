/** The core: everything that decides, as pure functions. The server, the browser and the tests run this same code. */
export * from './model/basics';
export * from './model/client';
export * from './model/condition';
export { comparable, holds, isInSegment, moment, type ConditionWorld, type SegmentWorld } from './model/holds';
export { conditionWords } from './model/conditionWords';
export * from './model/loop';
export * from './model/list';
export * from './model/person';
export {
  Cue,
  CUE_KINDS,
  cueWords,
  dateDue,
  KEYWORD_MATCHES,
  MATCH_WORDS,
  type CueKind,
  type DateCue,
  type KeywordMatch,
} from './match/cues';
export { hear, hearOther, indexCues, isHeardOn, type CueIndex, type HeardCue, type HeardKeyword } from './match/cueIndex';
export { PLACES, winnerOf, type Candidate, type Decision, type Place } from './match/decision';
export { respond, type FromPerson, type FromStaff, type Incoming, type Response } from './respond';
export { newStanding, type Held, type Shelf, type Standing } from './run/standing';
export { zoneOf, type Beside, type World } from './run/world';
export type { Run } from './run/run';
export { tieOf } from './run/turn';
export { choiceRef, moreRef, readChoiceRef, readMore, type ChoiceRef } from './run/choiceRef';
export { stageWords } from './run/stage';
export * from './run/steps';
export { isInside, whyNotAddress, type AddressProblem } from './run/steps/outsideAddress';
export { OpeningHours, isOpen } from './time/openingHours';
export { addDays, instantOf, isDate, isTimeOfDay, isZone, localTime, momentWords, nextTime, WEEKDAYS } from './time/zones';
export { Calendar, afterBooking, calendarsByName, withNothingTaken, type Booked, type CalendarFacts, type Taken } from './booking/calendar';
export { freeTimes, keptFor, type FreeTime } from './booking/freeTimes';
export { fold, slips } from './words/fold';
export { choiceLetter, readChoice, readChoices } from './words/choice';
export { merge, mergeWords, parseMerge, type TextPart } from './words/merge';
export { READERS, readReply } from './words/replies';
export {
  CHANNELS,
  INSTAGRAM,
  MESSENGER,
  SMS,
  TELEGRAM,
  WHATSAPP,
  smsParts,
  splitText,
  utf8Bytes,
  type Channel,
  type Outgoing,
  type SmsParts,
  type Tap,
  type TapsAs,
} from './channels';
export { adContradictions, adQuestions, type AdQuestions } from './channels/adQuestions';
export type { Template } from './channels/templates';
export type { LineAddress, WayIn } from './channels/waysIn';
export { MENU_KINDS, Menus, menuDifferences, menuProblems, type MenuItem, type MenuKind, type MenuLimits } from './channels/menus';
export type { KnownLine, Severity, Surroundings } from './check/check';
export { fieldsOf } from './check/fieldsOf';
export { accept, findingKey, findingsOf, openWarnings, problemsOf, type Finding, type Problem } from './check/findings';
export type { LoopPath, Paths } from './check/paths';
export { Take, type TakePerson } from './model/take';
export { isAsked } from './consent/asked';
export { QUIET, QuietByChannel, QuietHours, quietUntil } from './consent/quiet';
export { HELD_AT_MOST, permission, sendings, windowEnd, type Permission, type Via } from './consent/permission';
export { differences } from './files/differences';
