import { TextRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const incomingWebhook: CueEditor<'incoming webhook'> = {
  words: 'An incoming webhook',
  more: 'another system calls',
  fresh: (name) => ({ kind: 'incoming webhook', hook: name }),
  Own,
};

function Own({ cue, set }: OwnProps<'incoming webhook'>) {
  return (
    <TextRow
      label="Name of the webhook"
      placeholder="order-shipped"
      hint="Add its address under Webhooks."
      value={cue.hook}
      onChange={(hook) => set({ hook: hook.trim().toLowerCase() })}
    />
  );
}
