import type { ReactNode } from 'react';
import type { Cue } from '@dart-loop/core/engine/cues/index';
import { keyword } from './keyword';
import { link } from './link';
import { comment } from './comment';
import { adClick } from './adClick';
import { leadForm } from './leadForm';
import { menuTap } from './menuTap';
import { firstMessage } from './firstMessage';
import { fallback } from './fallback';
import { tag } from './tag';
import { listJoined } from './listJoined';
import { fieldChanged } from './fieldChanged';
import { date } from './date';
import { silence } from './silence';
import { incomingWebhook } from './incomingWebhook';
import type { CueEditor, OwnProps } from './cueEditor';

/** Every kind of cue, in the order in which they are offered. */
export const CUE_EDITORS: { [K in Cue['kind']]: CueEditor<K> } = {
  keyword,
  link,
  comment,
  'ad click': adClick,
  'lead form': leadForm,
  'menu tap': menuTap,
  'first message': firstMessage,
  fallback,
  tag,
  'list joined': listJoined,
  'field changed': fieldChanged,
  date,
  silence,
  'incoming webhook': incomingWebhook,
};

/** What only the cue's own kind has. */
export function OwnPart(props: Omit<OwnProps<Cue['kind']>, 'cue'> & { cue: Cue }): ReactNode {
  const { Own } = CUE_EDITORS[props.cue.kind] as CueEditor<Cue['kind']>;
  return <Own {...props} />;
}
