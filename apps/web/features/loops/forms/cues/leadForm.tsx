import { fieldKey } from '@dart-loop/core/language/slug';
import { TextRow } from '../../../../ui/rows';
import { listed, type CueEditor, type OwnProps } from './cueEditor';

export const leadForm: CueEditor<'lead form'> = {
  words: 'A lead form',
  more: 'somebody submits an ad’s form',
  fresh: () => ({ kind: 'lead form', forms: ['form-id'] }),
  Own,
};

function Own({ cue, set }: OwnProps<'lead form'>) {
  return (
    <>
      <TextRow
        label="Form ids, comma-separated"
        placeholder="778100220033"
        value={cue.forms.join(', ')}
        onChange={(typed) => set({ forms: listed(typed) })}
      />
      <TextRow
        label="Save answers in fields, one per line"
        placeholder="email -> email"
        multiline
        value={Object.entries(cue.fields ?? {})
          .map(([from, to]) => `${from} -> ${to}`)
          .join('\n')}
        read={(typed) =>
          typed.split('\n').every((line) => !line.trim() || /->/.test(line))
            ? null
            : 'Each line is an answer, an arrow and a field.'
        }
        onChange={(typed) => {
          const pairs = listed(typed, /\n/).map(
            (line) => line.split('->').map((part) => part.trim()) as [string, string],
          );
          set({
            fields:
              pairs.length > 0
                ? Object.fromEntries(pairs.map(([from, to]) => [from, fieldKey(to)]))
                : undefined,
          });
        }}
      />
      <TextRow
        label="Consent wording on the form"
        hint="With the full sentence, submitting counts as an opt-in. Leave it empty if the form asks for no consent."
        placeholder="I agree to get messages about plants."
        multiline
        value={cue.optIn ?? ''}
        onChange={(optIn) => set({ optIn: optIn.trim() || undefined })}
      />
    </>
  );
}
