import { View } from 'react-native';
import { SheetQuestion, type SheetRowView } from '@dart-loop/contract/answers';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';
import { Lines } from './typedLines';
import { sheetPath } from './useSources';

const Typed = SheetQuestion.extend({ contains: Lines, lacks: Lines });
const LEAST = [
  ['answer', 'Answered'],
  ['offer', 'Answered or offered'],
  ['open', 'May stay open'],
] as const;
const KNOWN = [
  ['yes', 'The sources say it'],
  ['no', 'They do not: nothing may be said'],
] as const;

/** A question of the sheet with what is right. */
export function QuestionForm({
  client,
  row,
  onClose,
  onSaved,
}: {
  client: string;
  row?: SheetRowView;
  onClose: () => void;
  onSaved: () => Promise<unknown>;
}) {
  const path = `${sheetPath(client)}/questions`;
  const form = useSentForm(
    Typed,
    {
      question: row?.question ?? '',
      from: row?.from ?? '',
      contains: row?.contains.join('\n') ?? '',
      lacks: row?.lacks.join('\n') ?? '',
      known: row?.known ?? 'yes',
      least: row?.least ?? 'offer',
    },
    async (body) => {
      if (row) await ask('PUT', `${path}/${row.id}`, body);
      else await ask('POST', path, body);
      await onSaved();
      onClose();
    },
  );
  const { known = 'yes', least = 'offer' } = form.form.watch();
  return (
    <Dialog
      title={row ? 'Change question' : 'Add question'}
      open
      onClose={onClose}
      foot={<ActionButton title="Save question" busy={form.busy} onPress={form.submit} />}
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Refused problem={form.failure?.message} />
        <FormField of={form} name="question" label="Question" hint="As somebody would ask it." autoFocus />
        <PickRow
          label="Known"
          value={known}
          options={KNOWN}
          onChange={(next) => form.form.setValue('known', next)}
        />
        {known === 'yes' && (
          <>
            <PickRow
              label="At least"
              value={least}
              options={LEAST}
              onChange={(next) => form.form.setValue('least', next)}
            />
            <FormField
              of={form}
              name="contains"
              label="A right answer has in it"
              hint="One part on each line, such as a price."
              multiline
              numberOfLines={3}
            />
            <FormField of={form} name="lacks" label="It must not have in it" multiline numberOfLines={2} />
            <FormField
              of={form}
              name="from"
              label="Where it stands"
              hint="Such as tickets.md#Children; empty: anywhere."
            />
          </>
        )}
      </View>
    </Dialog>
  );
}
