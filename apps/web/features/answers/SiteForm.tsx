import { View } from 'react-native';
import { AddPages } from '@dart-loop/contract/answers';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';
import { EVERY_WORDS, sourcesPath } from './useSources';

const REACH = [
  ['site', 'The whole site'],
  ['below', 'What lies below this address'],
  ['page', 'This page only'],
] as const;

/** Adds pages of the web to what is answered from. */
export function SiteForm({
  client,
  onClose,
  onSaved,
}: {
  client: string;
  onClose: () => void;
  onSaved: () => Promise<unknown>;
}) {
  const form = useSentForm(AddPages, { address: '', reach: 'site', every: 'week' }, async (body) => {
    await ask('POST', `${sourcesPath(client)}/pages`, body);
    await onSaved();
    onClose();
  });
  const { reach = 'site', every = 'week' } = form.form.watch();
  return (
    <Dialog
      title="Add a website"
      open
      onClose={onClose}
      foot={<ActionButton title="Read pages" busy={form.busy} onPress={form.submit} />}
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Refused problem={form.failure?.message} />
        <FormField
          of={form}
          name="address"
          label="Address"
          placeholder="https://example.org/"
          inputMode="url"
          autoCapitalize="none"
          autoFocus
        />
        <PickRow
          label="What is read"
          value={reach}
          options={REACH}
          onChange={(next) => form.form.setValue('reach', next)}
        />
        <PickRow
          label="Read again"
          value={every}
          options={EVERY_WORDS}
          onChange={(next) => form.form.setValue('every', next)}
        />
        <Words kind="small">
          Pages are read one after the other, as the site’s robots.txt allows; at most 2,000.
        </Words>
      </View>
    </Dialog>
  );
}
