import type { Check } from '../check';
import { adQuestionsFit } from './adQuestions';
import { alertToNobody } from './alertToNobody';
import { calendars } from './calendars';
import { circles } from './circles';
import { consent } from './consent';
import { destinations } from './destinations';
import { doubleId } from './doubleId';
import { fallsSilent } from './fallsSilent';
import { keywords } from './keywords';
import { languages } from './languages';
import { mergeFields } from './mergeFields';
import { missingSegment } from './missingSegment';
import { missingTarget } from './missingTarget';
import { neverReached } from './neverReached';
import { nothingYet } from './nothingYet';
import { patterns } from './patterns';
import { shownOtherwise } from './shownOtherwise';
import { sources } from './sources';
import { skipWordTaken } from './skipWordTaken';
import { smsPrice } from './smsPrice';
import { templates } from './templates';
import { unknownLine } from './unknownLine';
import { valueTypes } from './valueTypes';
import { waitsForEver } from './waitsForEver';
import { windows } from './windows';

/** Checks that can stand in the way of publishing. */
export const STOPPING = [
  nothingYet,
  unknownLine,
  doubleId,
  missingTarget,
  missingSegment,
  destinations,
  calendars,
  sources,
  circles,
  mergeFields,
  valueTypes,
  patterns,
] as const;

/** All checks. A new one is one file here plus its two lines in this index. */
export const CHECKS = [
  ...STOPPING,
  neverReached,
  fallsSilent,
  waitsForEver,
  keywords,
  skipWordTaken,
  alertToNobody,
  shownOtherwise,
  smsPrice,
  windows,
  templates,
  consent,
  adQuestionsFit,
  languages,
] as const;
export type CheckCode = (typeof CHECKS)[number] extends Check<infer Code> ? Code : never;
