import { View } from 'react-native';
import { z } from 'zod';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';

const Pasted = z.object({ csv: z.string().trim().min(1, 'paste some lines') });

/** Takes many lines at once, as a table of commas or from a spreadsheet. */
export function PasteForm({
  title,
  about,
  path,
  onClose,
  onSaved,
}: {
  title: string;
  /** Which columns there are. */
  about: string;
  path: string;
  onClose: () => void;
  onSaved: () => Promise<unknown>;
}) {
  const form = useSentForm(Pasted, { csv: '' }, async (body) => {
    await ask('POST', path, body);
    await onSaved();
    onClose();
  });
  return (
    <Dialog
      title={title}
      open
      onClose={onClose}
      foot={<ActionButton title={title} busy={form.busy} onPress={form.submit} />}
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Refused problem={form.failure?.message} />
        <Words kind="small">{about}</Words>
        <FormField of={form} name="csv" label="Lines" multiline numberOfLines={8} autoFocus />
      </View>
    </Dialog>
  );
}
