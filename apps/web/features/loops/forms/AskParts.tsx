import { View } from 'react-native';
import { newAsk } from '@dart-loop/core/loops/edit/newSteps';
import { fieldKey } from '@dart-loop/core/language/slug';
import { QuietButton } from '../../../ui/press';
import { Group, TextRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import { QuestionRows } from './QuestionRows';
import { MergedRow } from '../merging';
import { without, type FormProps } from './formProps';

const MOST = 5;

/** Further fields that the same message may answer, each with the question for when it does not. */
export function AskParts({ step, set }: Pick<FormProps<'ask'>, 'step' | 'set'>) {
  const { also = [] } = step;
  const fields = [step.field, ...also.map(({ field }) => field)];
  const add = () => {
    const { text, field } = newAsk('date');
    const free = [field, 'day', 'visit_day', 'other_day', 'answer_2', 'answer_3', 'answer_4'].find(
      (each) => !fields.includes(each),
    );
    set(
      [['also'], [...also, { text, reply: 'date', field: free ?? `${field}_${fields.length}` }]],
      ...without('gather', 'anythingElse', ...(step.known === 'confirm' ? ['known', 'confirm'] : [])),
    );
  };
  return (
    <Group title="Further answers in the same message">
      {also.length > 0 && (
        <Words kind="small">
          Whatever the message answers is saved. The question of what is missing is asked afterwards.
        </Words>
      )}
      {also.map((part, index) => {
        const put: typeof set = (...changes) =>
          set(...changes.map(([path, value]): (typeof changes)[number] => [['also', index, ...path], value]));
        return (
          <View key={index} role="group" aria-label={`Answer ${index + 2}`} style={{ gap: 10, marginTop: 8 }}>
            <View style={{ flexDirection: 'row', alignItems: 'center', justifyContent: 'space-between' }}>
              <Words kind="strong">{`Answer ${index + 2}`}</Words>
              <QuietButton
                title="Remove"
                label={`Remove answer ${index + 2}`}
                tone="quiet"
                onPress={() =>
                  set([['also'], also.length > 1 ? also.filter((_, at) => at !== index) : undefined])
                }
              />
            </View>
            <MergedRow
              label={`Question ${index + 2}, if it is missing`}
              value={part.text}
              onChange={(text) => put([['text'], text])}
            />
            <TextRow
              label={`Field of answer ${index + 2}`}
              value={part.field}
              onChange={(field) => put([['field'], fieldKey(field)])}
            />
            <QuestionRows question={part} put={put} />
          </View>
        );
      })}
      {also.length < MOST && (
        <View style={{ alignItems: 'flex-start' }}>
          <QuietButton outlined title="Add an answer" onPress={add} />
        </View>
      )}
    </Group>
  );
}
