/** The core: everything that decides, as pure functions. The server, the browser and the tests run this same code. */
export * from './model/basics';
export * from './model/client';
export * from './model/loop';
export * from './model/person';
export { Cue, cueWords, KEYWORD_MATCHES, type KeywordMatch } from './match/cues';
export { hear, indexCues, type CueIndex, type HeardCue } from './match/cueIndex';
export { PLACES, winnerOf, type Candidate, type Decision, type Place } from './match/decision';
export { respond, type Incoming, type Response, type Shelf, type World } from './respond';
export type { Run } from './run/run';
export { choiceRef, readChoiceRef, type ChoiceRef } from './run/choiceRef';
export { stageWords } from './run/stage';
export {
  exitsOf,
  Step,
  STEPS,
  waitingOf,
  type Ask,
  type Change,
  type Choice,
  type Effect,
  type Note,
  type Said,
  type Say,
  type SetStep,
  type StepKindName,
} from './run/steps';
export { fold, slips } from './words/fold';
export { choiceLetter, readChoice } from './words/choice';
export { merge, mergeWords, parseMerge, type TextPart } from './words/merge';
export { READERS, readReply } from './words/replies';
export { CHANNELS, SMS, TELEGRAM, smsParts, splitText, type Channel, type Outgoing, type SmsParts } from './channels';
export { fieldsOf, problemsOf, type Problem } from './check/soundness';
export { differences } from './files/differences';
