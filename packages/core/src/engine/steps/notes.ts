import type { ConsentWord } from '../../consent/words';
import type { ConsentScope } from '../../people/list';
import type { Target } from '../../loops/model/basics';
import type { Value } from '../../people/person';
import type { ChoiceHow } from '../../language/choice';
import type { Aside } from './aside';
import type { FromSourcesOne } from './fromSources';

/** What happened, kept as facts; `stage.ts` puts it into words. */
export type Note =
  | { code: 'cue heard'; loop: string; how: string }
  | { code: 'started by'; loop: string; by: string }
  | { code: 'resumed'; loop: string }
  | { code: 'late tap'; loop: string; label: string }
  | { code: 'run replaced'; loop: string }
  | {
      code: 'choice read';
      label: string;
      how: 'tap' | ChoiceHow;
      to: string;
    }
  /** `why`: why the reading is no surer, as a sentence part. */
  | { code: 'reply read'; type: Value['type']; field: string; value: Value; why?: string }
  | { code: 'gathering'; seconds: number }
  /** ISO 639-1. */
  | { code: 'language told'; language: string }
  | { code: 'asked back'; what: Exclude<Aside['kind'], 'times' | 'parts' | 'answering'> }
  | { code: 'known already'; field: string; value: Value }
  | { code: 'skipped' }
  | { code: 'called off'; to: string }
  | { code: 'could not read'; reason: string; tries: number; of: number }
  | { code: 'something else'; to: string }
  | { code: 'does not know'; to: string }
  | { code: 'gave up'; to: string }
  | { code: 'no reply'; after: string; to: string }
  | { code: 'reminded'; after: string; nth: number; of: number }
  | { code: 'waits'; until: number; zone: string }
  | { code: 'waited' }
  | { code: 'quiet hours'; until: number; zone: string }
  | { code: 'its turn later'; what: string; loop: string }
  | { code: 'held back'; reason: string }
  | { code: 'released' }
  | { code: 'sent as template'; name: string }
  | { code: 'template not usable'; reason: string }
  | { code: 'dropped'; reason: string }
  | { code: 'said elsewhere'; line: string }
  | { code: 'said for'; line: string }
  | { code: 'no other line' }
  | { code: 'question unseen'; loop: string }
  | { code: 'more shown'; from: number; of: number }
  | { code: 'answered privately' }
  | { code: 'comment removed' }
  | { code: 'lead form'; form: string }
  | { code: 'field set'; field: string; value: Value | null }
  | { code: 'field not set'; field: string; reason: string }
  | { code: 'tag'; tag: string; on: boolean }
  | { code: 'list'; list: string; on: boolean }
  | { code: 'split'; to: string; because: string }
  | { code: 'arm'; arm: string; to: string }
  | { code: 'went'; to: string }
  | { code: 'went back'; to: string }
  | { code: 'next item'; nth: number; of: number }
  | { code: 'no items'; field: string }
  | { code: 'loop called'; loop: string; back: boolean }
  | { code: 'came back'; loop: string }
  | { code: 'handed over'; to: string; note: string }
  | { code: 'nobody on duty' }
  | { code: 'hand-over given up'; after: string; to: string }
  | { code: 'recorded'; who: string }
  | { code: 'stepped in'; by: string }
  | { code: 'left the team'; by: string }
  | { code: 'handed back'; by: string; how: string }
  | { code: 'alert'; by: string; to: number }
  | { code: 'to be delivered'; destination: string }
  | { code: 'sent out'; host: string }
  | { code: 'times offered'; calendar: string; count: number; to: string }
  | { code: 'booked'; calendar: string; from: number; zone: string; moved: boolean }
  | { code: 'booked already'; calendar: string }
  | { code: 'booking cancelled'; calendar: string; from: number; zone: string }
  | { code: 'time gone'; from: number; zone: string }
  /** `from`: where the answer stands. */
  | {
      code: 'from sources';
      came: FromSourcesOne['came'];
      question: string;
      from: string | null;
      model?: FromSourcesOne['model'];
    }
  | { code: 'sources asked'; question: string }
  | { code: 'sources not asked'; reason: string }
  | { code: 'picked'; from: string }
  | { code: 'not known'; times: number; to: string }
  | { code: 'answered enough'; times: number }
  | { code: 'wants a person'; to: string }
  | { code: 'delivered'; ok: boolean; reason: string; to: string }
  /** Of a text that was longer only so many characters are kept. */
  | { code: 'text cut'; kept: number; of: number }
  | { code: 'stop asked' }
  | { code: 'stop denied' }
  | { code: 'consent'; what: ConsentWord; scope?: ConsentScope; list?: string }
  | { code: 'asked to confirm'; list: string }
  | { code: 'opted out'; what: string }
  | { code: 'moved'; loop: string; version: number }
  | { code: 'finished'; loop: string }
  | { code: 'stopped'; loop: string }
  | { code: 'circle'; scene: string }
  | { code: 'chain cut'; loop: string; reason: string }
  | { code: 'unusable'; reason: string }
  | { code: 'nobody'; reason: string }
  | { code: 'set aside'; reason: string };

/** A step that a run has left, where to, and what was noted on the way out of it. */
export interface Left {
  runId: string;
  stepId: string;
  to: Target;
  notes: Note[];
}
