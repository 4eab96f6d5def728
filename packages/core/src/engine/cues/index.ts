import { z } from 'zod';
import { conditionWords } from '../../people/conditionWords';
import { AdClickCue, adClickWords } from './adClick';
import { CommentCue, commentWords } from './comment';
import { DateCue, dateWords } from './date';
import { FallbackCue, fallbackWords } from './fallback';
import { FieldChangedCue, fieldChangedWords } from './fieldChanged';
import { FirstMessageCue, firstMessageWords } from './firstMessage';
import { IncomingWebhookCue, incomingWebhookWords } from './incomingWebhook';
import { KeywordCue, keywordWords } from './keyword';
import { LeadFormCue, leadFormWords } from './leadForm';
import { LinkCue, linkWords } from './link';
import { ListJoinedCue, listJoinedWords } from './listJoined';
import { MenuTapCue, menuTapWords } from './menuTap';
import { SilenceCue, silenceWords } from './silence';
import { TagCue, tagWords } from './tag';

/** What starts a loop for a person. A new kind is one file here plus its lines in this index. */
export const Cue = z.discriminatedUnion('kind', [
  KeywordCue,
  LinkCue,
  MenuTapCue,
  FirstMessageCue,
  FallbackCue,
  TagCue,
  ListJoinedCue,
  FieldChangedCue,
  DateCue,
  SilenceCue,
  IncomingWebhookCue,
  CommentCue,
  AdClickCue,
  LeadFormCue,
]);
export type Cue = z.infer<typeof Cue>;
export type CueKind = Cue['kind'];

const WORDS: { [K in CueKind]: (cue: Extract<Cue, { kind: K }>) => string } = {
  keyword: keywordWords,
  link: linkWords,
  'menu tap': menuTapWords,
  'first message': firstMessageWords,
  fallback: fallbackWords,
  tag: tagWords,
  'list joined': listJoinedWords,
  'field changed': fieldChangedWords,
  date: dateWords,
  silence: silenceWords,
  'incoming webhook': incomingWebhookWords,
  comment: commentWords,
  'ad click': adClickWords,
  'lead form': leadFormWords,
};
export const CUE_KINDS = Object.keys(WORDS) as CueKind[];

/** How the script words a cue. */
export function cueWords(cue: Cue): string {
  const words = (WORDS[cue.kind] as (cue: Cue) => string)(cue);
  return cue.who ? `${words}, if ${conditionWords(cue.who)}` : words;
}

export type { Again, WhileRunning } from './cue';
export { whyNotComment } from './comment';
export { dateDue, type DateCue } from './date';
export {
  KEYWORD_MATCHES,
  MATCH_WORDS,
  MOST_PATTERNS,
  MOST_PATTERN_SIZE_TOGETHER,
  compilePattern,
  type KeywordCue,
  type KeywordMatch,
} from './keyword';
export type { SilenceCue } from './silence';
