/**
 * The core: everything that decides, as pure functions. The server, the browser and the tests run this same
 * code.
 */
export * from './loops/model/basics';
export * from './people/client';
export * from './people/condition';
export {
  comparable,
  holds,
  isInSegment,
  moment,
  type ConditionWorld,
  type SegmentWorld,
} from './people/holds';
export { conditionWords } from './people/conditionWords';
export * from './loops/model/loop';
export * from './people/list';
export * from './people/person';
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
} from './engine/cues';
export {
  hear,
  hearOther,
  indexCues,
  isHeardOn,
  type CueIndex,
  type HeardCue,
  type HeardKeyword,
} from './engine/decide/cueIndex';
export { PLACES, winnerOf, type Candidate, type Decision, type Place } from './engine/decide/decision';
export { respond, type FromPerson, type FromStaff, type Incoming, type Response } from './engine/decide';
export { newStanding, type Held, type Shelf, type Standing } from './engine/run/standing';
export { zoneOf, type Beside, type World } from './engine/run/world';
export type { Run } from './engine/run/run';
export { tieOf } from './engine/run/changes';
export { choiceRef, moreRef, readChoiceRef, readMore, type ChoiceRef } from './engine/run/choiceRef';
export { stageWords } from './engine/run/stage';
export * from './engine/steps';
export { isInside, whyNotAddress, type AddressProblem } from './engine/steps/outsideAddress';
export { isOpen } from './time/openings';
export { OpeningHours } from './time/openingHours';
export { isDate, isTimeOfDay, isZone, WEEKDAYS } from './time/clockTime';
export { addDays, instantOf, localTime, momentWords, nextTime } from './time/zones';
export {
  Calendar,
  afterBooking,
  afterCancelling,
  calendarsByName,
  withNothingTaken,
  type Booked,
  type BookedAhead,
  type CalendarFacts,
  type Taken,
} from './booking/calendar';
export { freeTimes, keptFor, type FreeTime } from './booking/freeTimes';
export { fold, slips } from './language/fold';
export { choiceLetter, readChoice, readChoices } from './language/choice';
export { merge, parseMerge } from './language/merge';
export { mergeWords, type TextPart } from './language/mergeParts';
export { READERS, readReply } from './language/replies';
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
export type { Template, TemplateHeader } from './channels/template';
export type { LineAddress, WayIn } from './channels/waysIn';
export {
  MENU_KINDS,
  Menus,
  menuDifferences,
  menuProblems,
  type MenuItem,
  type MenuKind,
  type MenuLimits,
} from './channels/menus';
export type { KnownLine, Severity, Surroundings } from './loops/check/check';
export { fieldsOf } from './loops/check/fieldsOf';
export {
  accept,
  findingKey,
  findingsOf,
  openWarnings,
  problemsOf,
  type Finding,
  type Problem,
} from './loops/check/findings';
export type { LoopPath, Paths } from './loops/check/paths';
export { Take, type TakePerson } from './loops/takes/take';
export { isAsked } from './consent/asked';
export { QUIET, QuietByChannel, QuietHours } from './consent/quietHours';
export { quietUntil } from './consent/quiet';
export {
  HELD_AT_MOST,
  permission,
  sendings,
  windowEnd,
  type Permission,
  type Via,
} from './consent/permission';
export { differences } from './loops/file/differences';
export type { LinkCard, Media, Said } from './channels/said';
