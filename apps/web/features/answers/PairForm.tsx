import { View } from 'react-native';
import { PairBody, type Pair } from '@dart-loop/contract/answers';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';
import { Lines } from './typedLines';
import { pairsPath } from './useSources';

const Typed = PairBody.extend({ wordings: Lines });

/** Writes the answer to a question, or changes it. */
export function PairForm({
  client,
  pair,
  question = '',
  wordings = [],
  settles = [],
  onClose,
  onSaved,
}: {
  client: string;
  /** The one that is changed; left out, a new one. */
  pair?: Pair;
  question?: string;
  wordings?: string[];
  /** Questions that could not be answered before, by their ids. */
  settles?: string[];
  onClose: () => void;
  onSaved: () => Promise<unknown>;
}) {
  const form = useSentForm(
    Typed,
    {
      question: pair?.question ?? question,
      answer: pair?.answer ?? '',
      wordings: (pair?.wordings ?? wordings).join('\n'),
    },
    async (body) => {
      if (pair) await ask('PUT', `${pairsPath(client)}/${pair.id}`, body);
      else await ask('POST', pairsPath(client), { ...body, settles });
      await onSaved();
      onClose();
    },
  );
  return (
    <Dialog
      title={pair ? 'Change answer' : 'Add answer'}
      open
      onClose={onClose}
      foot={<ActionButton title="Save answer" busy={form.busy} onPress={form.submit} />}
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Refused problem={form.failure?.message} />
        <FormField of={form} name="question" label="Question" autoFocus={!question} />
        <FormField
          of={form}
          name="answer"
          label="Answer"
          hint="It is sent word for word."
          multiline
          numberOfLines={4}
          autoFocus={question !== ''}
        />
        <FormField
          of={form}
          name="wordings"
          label="Other ways of asking it"
          hint="One on each line; you can leave it empty."
          multiline
          numberOfLines={4}
        />
      </View>
    </Dialog>
  );
}
