import { FieldType } from '@dart-loop/core/people/person';
import type { Question } from '@dart-loop/core';
import { newAsk } from '@dart-loop/core/loops/edit/newSteps';
import { freshId } from '@dart-loop/core/loops/model/loop';
import { READERS } from '@dart-loop/core/language/replies/index';
import { Group, PickRow, TextRow, TickRow } from '../../../ui/rows';
import { without, type Changes, type FormProps } from './formProps';

type Put = FormProps<'ask'>['set'];

const DAYS = [
  ['ahead', 'ahead'],
  ['past', 'past'],
  ['any', 'any'],
] as const;

/**
 * As what an answer is read, with its options or bounds. `alongside`: what else of the step goes with a kind
 * of answer, and is taken away with it.
 */
export function QuestionRows({
  question,
  put,
  alongside = () => [],
}: {
  question: Question;
  put: Put;
  alongside?: (reply: FieldType) => Changes;
}) {
  const listed = question.reply === 'one of' || question.reply === 'several of';
  const pick = (reply: FieldType) => {
    const fresh = newAsk(reply);
    put(
      [['reply'], reply],
      [['options'], fresh.options ? (question.options ?? fresh.options) : undefined],
      ...without(
        ...(reply === 'number' ? [] : ['min', 'max']),
        ...(reply === 'date' ? [] : ['days']),
        ...(reply === 'several of' ? [] : ['none']),
      ),
      ...alongside(reply),
    );
  };
  return (
    <>
      <PickRow
        label="The answer is"
        value={question.reply}
        options={FieldType.options.map((type) => [type, READERS[type].words] as const)}
        onChange={pick}
      />
      {listed && <OptionRow question={question} put={put} />}
      {question.reply === 'several of' && (
        <TickRow
          label="“None of them” is an answer"
          on={question.none === true}
          onChange={(on) => put([['none'], on ? true : undefined])}
        />
      )}
      {question.reply === 'number' && (
        <Group title="Bounds">
          {(['min', 'max'] as const).map((bound) => (
            <TextRow
              key={bound}
              label={bound === 'min' ? 'At least' : 'At most'}
              placeholder={bound === 'min' ? '1' : '12'}
              value={question[bound] === undefined ? '' : String(question[bound])}
              read={(typed) =>
                typed.trim() === '' || Number.isFinite(Number(typed)) ? null : 'A number, such as 12.'
              }
              onChange={(typed) => put([[bound], typed.trim() === '' ? undefined : Number(typed)])}
            />
          ))}
        </Group>
      )}
      {question.reply === 'date' && (
        <PickRow
          label="The day lies"
          value={question.days ?? 'ahead'}
          options={DAYS}
          onChange={(days) => put([['days'], days === 'ahead' ? undefined : days])}
        />
      )}
    </>
  );
}

function OptionRow({ question: { options = [] }, put }: { question: Question; put: Put }) {
  return (
    <TextRow
      label="Possible answers, one per line"
      multiline
      value={options.map(({ label }) => label).join('\n')}
      read={(typed) =>
        typed.split('\n').filter((each) => each.trim()).length >= 2 ? null : 'Name at least two.'
      }
      onChange={(typed) => put([['options'], reworded(options, typed)])}
    />
  );
}

/** The options as they are named in lines. */
function reworded(options: NonNullable<Question['options']>, typed: string) {
  const labels = typed
    .split('\n')
    .map((each) => each.trim())
    .filter(Boolean)
    .slice(0, 26);
  const taken: string[] = [];
  return labels.map((label, at) => {
    const there = options[at];
    // The same label is the same option; else the one that stood in this line was reworded.
    const same =
      options.find((option) => option.label === label) ??
      (there && !labels.includes(there.label) ? there : null);
    const id =
      same && !taken.includes(same.id)
        ? same.id
        : freshId(label, [...taken, ...options.map((each) => each.id)]);
    taken.push(id);
    return { ...same, id, label };
  });
}
