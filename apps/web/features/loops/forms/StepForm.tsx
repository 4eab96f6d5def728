import { useState } from 'react';
import { View } from 'react-native';
import type { LoopSurroundings } from '@dart-loop/contract';
import { withValueAt } from '@dart-loop/core/loops/edit/edits';
import { Step } from '@dart-loop/core/engine/steps/index';
import { Dialog } from '../../../ui/Menu';
import { ActionButton } from '../../../ui/press';
import { Refused } from '../../../ui/parts';
import type { SceneName } from '../TargetMenu';
import type { FormProps } from './formProps';
import { AnswerForm } from './AnswerForm';
import { BookForm } from './BookForm';
import { AskForm } from './AskForm';
import { AlertForm, GoForm, HandOverForm, SendOutForm } from './doingForms';
import { SayForm } from './SayForm';
import { SplitForm, VaryForm, WaitForm } from './leadingForms';

/**
 * Everything of a step that its line does not show at once. What is sound is written at once; what is not
 * says why.
 */
export function StepForm({
  step,
  scenes,
  known,
  onChange,
  onClose,
}: {
  step: Step;
  scenes: SceneName[];
  known: LoopSurroundings | undefined;
  onChange: (step: Step) => void;
  onClose: () => void;
}) {
  const [written, setWritten] = useState<Step>(step);
  const [problem, setProblem] = useState<string | null>(null);
  const set: FormProps<Step['kind']>['set'] = (...changes) => {
    const next = changes.reduce((before, [path, value]) => withValueAt(before, path, value), written);
    setWritten(next);
    const read = Step.safeParse(next);
    setProblem(
      read.success ? null : `${sentence(read.error.issues[0]!.message)} Until then the step stays as it was.`,
    );
    if (read.success) onChange(read.data);
  };
  const props = { set, scenes, known };
  return (
    <Dialog title={`Settings of this ${step.kind}`} open onClose={onClose}>
      <View style={{ padding: 12, gap: 16 }}>
        {formOf(written, props)}
        <Refused problem={problem} />
        <View style={{ alignItems: 'flex-start' }}>
          <ActionButton title="Done" onPress={onClose} />
        </View>
      </View>
    </Dialog>
  );
}

function formOf(step: Step, props: Omit<FormProps<Step['kind']>, 'step'>) {
  switch (step.kind) {
    case 'say':
      return <SayForm step={step} {...props} />;
    case 'ask':
      return <AskForm step={step} {...props} />;
    case 'wait':
      return <WaitForm step={step} {...props} />;
    case 'split':
      return <SplitForm step={step} {...props} />;
    case 'vary':
      return <VaryForm step={step} {...props} />;
    case 'go':
      return <GoForm step={step} {...props} />;
    case 'hand over':
      return <HandOverForm step={step} {...props} />;
    case 'alert':
      return <AlertForm step={step} {...props} />;
    case 'send out':
      return <SendOutForm step={step} {...props} />;
    case 'book':
      return <BookForm step={step} {...props} />;
    case 'answer':
      return <AnswerForm step={step} {...props} />;
    case 'set':
    case 'end':
      return null;
  }
}

const sentence = (words: string) => `${words[0]!.toUpperCase()}${words.slice(1).replace(/\.?$/, '.')}`;
