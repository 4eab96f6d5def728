import { useState } from 'react';
import { View } from 'react-native';
import type { AnswerPassage, AnswerView } from '@dart-loop/contract/answers';
import type { ModelTried } from '@dart-loop/contract/model';
import { counted } from '@dart-loop/core/language/counted';
import { Refused, StateLine } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useMay } from '../session/useSession';
import { costWords } from './model/modelForm';
import { PairForm } from './PairForm';
import { sheetPath, sourcesPath, useSourcesChanged } from './useSources';

const SAID: Record<AnswerPassage['from'], (passage: AnswerPassage) => string> = {
  brief: () => 'the brief',
  pair: () => 'an answer of yours',
  source: ({ source }) => source,
};
const fromWords = (passage: AnswerPassage): string => SAID[passage.from](passage);
const percent = (sure: number): string => `${Math.round(sure * 100)} %`;

/** One question with what became of it, and what it was taken from; right or wrong is said by a press. */
export function Tried({ client, answer }: { client: string; answer: AnswerView }) {
  const { colors } = useTheme();
  const changes = useMay()('change sources');
  const [marked, setMarked] = useState<string | null>(null);
  const [open, setOpen] = useState<'wrong' | 'better' | null>(null);
  const changed = useSourcesChanged(client);
  const { act, busy, problem } = useAct();
  const { question, zone, passages, next, disagree } = answer;
  /** Keeps the question on the sheet, with what is right. */
  const keep = (right: object) => ask('POST', `${sheetPath(client)}/questions`, { question, ...right });
  const isRight = (passage: AnswerPassage) =>
    act(async () => {
      if (passage.id !== null)
        await ask('POST', `${sourcesPath(client)}/confirm`, { question, id: passage.id });
      await keep({ from: `${passage.source}#${passage.heading}`, known: 'yes', least: 'answer' });
      setMarked(`Answered from “${passage.heading}” from now on, and kept on the question sheet.`);
      setOpen(null);
      await changed();
    });
  const isUnknown = () =>
    act(async () => {
      await keep({ known: 'no' });
      setMarked('Kept on the question sheet: nothing may be said to it.');
      setOpen(null);
      await changed();
    });
  const pick = (among: AnswerPassage[]) =>
    among.map((passage) => (
      <QuietButton
        key={`${passage.source}${passage.heading}`}
        outlined
        title={passage.heading}
        label={`${passage.heading} is right`}
        disabled={busy}
        onPress={() => void isRight(passage)}
      />
    ));
  return (
    <View role="group" aria-label={question} style={{ gap: 6 }}>
      <View
        style={{
          alignSelf: 'flex-start',
          maxWidth: '95%',
          borderRadius: 6,
          backgroundColor: colors.inset,
          padding: 12,
        }}
      >
        <Words>
          {zone === 'answer'
            ? answer.text
            : zone === 'offer'
              ? 'Do you mean one of these?'
              : 'This is not known.'}
        </Words>
        {zone === 'offer' &&
          passages.map(({ heading }, at) => (
            <View
              key={at}
              style={{ borderTopWidth: 1, borderColor: colors.line, paddingTop: 6, marginTop: 6 }}
            >
              <Words>{heading}</Words>
            </View>
          ))}
      </View>
      {answer.parts !== null && <Words kind="small">{counted(answer.parts, 'part')}</Words>}
      {disagree.length > 0 && (
        <StateLine tone="warning">
          Two sources do not agree, so nothing is said. Correct one of them.
        </StateLine>
      )}
      {[...disagree, ...passages].map((passage, at) => (
        <View key={at} style={{ borderLeftWidth: 2, borderColor: colors.teal, paddingLeft: 10 }}>
          <Words kind="small" color="ink">
            <Words kind="smallStrong">{passage.heading}</Words>
            {`, ${fromWords(passage)}`}
          </Words>
          {(passage.text !== answer.text || disagree.length > 0) && (
            <Words kind="small" color="ink">{`“${passage.text}”`}</Words>
          )}
          {passage.matched.length > 0 && (
            <Words kind="small">{`matched: ${passage.matched.join(', ')}`}</Words>
          )}
        </View>
      ))}
      <Words kind="small">
        {[
          `${percent(answer.sure)} sure`,
          ...(next.length > 0 ? [`next: ${next.map(({ heading }) => heading).join(', ')}`] : []),
        ].join(' · ')}
      </Words>
      {answer.model && <ModelMade made={answer.model} />}
      <Refused problem={problem} />
      {marked && (
        <StateLine tone="quiet" role="status">
          {marked}
        </StateLine>
      )}
      {changes && !marked && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
          {zone === 'answer' && (
            <QuietButton
              outlined
              title="Right"
              label={`Right: ${question}`}
              disabled={busy}
              onPress={() => void isRight(passages[0]!)}
            />
          )}
          {zone === 'offer' && pick(passages)}
          {zone !== 'not known' && open !== 'wrong' && (
            <QuietButton
              outlined
              title={zone === 'offer' ? 'None of these' : 'Wrong'}
              label={`${zone === 'offer' ? 'None of these' : 'Wrong'}: ${question}`}
              onPress={() => setOpen('wrong')}
            />
          )}
          {zone === 'not known' && disagree.length === 0 && (
            <QuietButton
              outlined
              title="Right"
              label={`Right: ${question}`}
              disabled={busy}
              onPress={() => void isUnknown()}
            />
          )}
          <QuietButton
            outlined
            title="Write the answer"
            label={`Write the answer: ${question}`}
            onPress={() => setOpen('better')}
          />
        </View>
      )}
      {open === 'wrong' && !marked && (
        <View role="group" aria-label="What is right" style={{ gap: 8 }}>
          <Words kind="smallStrong">What is right?</Words>
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
            {pick(next)}
            <QuietButton
              outlined
              title="The sources do not say it"
              disabled={busy}
              onPress={() => void isUnknown()}
            />
          </View>
        </View>
      )}
      {open === 'better' && (
        <PairForm
          client={client}
          question={question}
          onClose={() => setOpen(null)}
          onSaved={async () => {
            await keep({ from: `pairs#${question}`, known: 'yes', least: 'answer' });
            setMarked('Your answer is said from now on, and the question kept on the sheet.');
            await changed();
          }}
        />
      )}
    </View>
  );
}

/** What the hosted model made of it: on a line it would be said in place of the above. */
function ModelMade({ made: { text, why, cost, currency, tookMs } }: { made: ModelTried }) {
  const { colors } = useTheme();
  return (
    <View style={{ borderLeftWidth: 2, borderColor: colors.line, paddingLeft: 10, gap: 2 }}>
      <Words kind="smallStrong">The model</Words>
      <Words>
        {text ?? (why.length > 0 ? 'Nothing it says may be said.' : 'It says that it is not known.')}
      </Words>
      {why.map((each, at) => (
        <Words key={at} kind="small">{`Not said, as ${each}.`}</Words>
      ))}
      <Words kind="small">{`${costWords(cost, currency)} · ${(tookMs / 1_000).toFixed(1)} s`}</Words>
    </View>
  );
}
