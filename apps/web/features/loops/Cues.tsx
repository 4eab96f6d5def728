import { View } from 'react-native';
import type { Cue, Loop } from '@dart-loop/core';
import { freshId } from '@dart-loop/core/model/loop';
import { KEYWORD_MATCHES, MATCH_WORDS, cueWords } from '@dart-loop/core/match/cues/index';
import { fold } from '@dart-loop/core/words/fold';
import { Menu } from '../../ui/Menu';
import { QuietButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { EditableText } from './EditableText';

type Keyword = Extract<Cue, { kind: 'keyword' }>;

/** What starts the loop, in words. Keywords are edited here, parted by commas; cues of other kinds are read, and come in with files. */
export function Cues({ loop, edit }: { loop: Loop; edit: (change: (loop: Loop) => Loop) => void }) {
  const change = (id: string, next: (cue: Cue) => Cue | null) =>
    edit((before) => ({ ...before, cues: before.cues.flatMap((cue) => (cue.id === id ? (next(cue) ?? []) : cue)) }));
  return (
    <View role="region" aria-label="Cues" style={{ paddingVertical: 4 }}>
      {loop.cues.length === 0 && <Words color="ochre">◆ Nothing starts this loop yet.</Words>}
      {loop.cues.map((cue, index) => (
        <View key={cue.id} style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 6, minHeight: 44 }}>
          <Words color="quiet">{index === 0 ? 'starts with' : 'or with'}</Words>
          {cue.kind === 'keyword' ? (
            <KeywordCue cue={cue} change={(next) => change(cue.id, () => next)} />
          ) : (
            <Words kind="strong" style={{ flexShrink: 1 }}>
              {cueWords(cue)}
            </Words>
          )}
          {againWords(cue) !== '' && <Words kind="small">{againWords(cue)}</Words>}
          <QuietButton title="×" label={`Remove the cue ${cueWords(cue)}`} tone="quiet" onPress={() => change(cue.id, () => null)} />
        </View>
      ))}
      <View style={{ alignSelf: 'flex-start' }}>
        <QuietButton
          title="+ keyword"
          tone="teal"
          onPress={() =>
            edit((before) => ({
              ...before,
              cues: [
                ...before.cues,
                {
                  id: freshId(
                    'keyword',
                    before.cues.map((cue) => cue.id),
                  ),
                  kind: 'keyword',
                  words: ['HELLO'],
                  match: 'exactly',
                },
              ],
            }))
          }
        />
      </View>
    </View>
  );
}

function KeywordCue({ cue, change }: { cue: Keyword; change: (cue: Keyword) => void }) {
  // A pattern that is none is refused when it is saved; here it stays as it was.
  const usable = (word: string) => word !== '' && (cue.match === 'pattern' || fold(word) !== '');
  return (
    <>
      <EditableText
        multiline={false}
        value={cue.words.join(', ')}
        label="Keywords"
        placeholder="keywords, with commas between"
        onChange={(typed) => {
          const words = [...new Set(typed.split(',').map((word) => word.trim()))].filter(usable);
          if (words.length > 0) change({ ...cue, words });
        }}
      >
        <Words kind="strong">{cue.words.map((word) => `“${word}”`).join(', ')}</Words>
      </EditableText>
      {cue.match === 'pattern' ? (
        <Words color="quiet">{MATCH_WORDS.pattern}</Words>
      ) : (
        <Menu
          compact
          label={`matched ${MATCH_WORDS[cue.match]}. Change`}
          title="How it matches"
          items={KEYWORD_MATCHES.filter((match) => match !== 'pattern').map((match) => ({
            key: match,
            words: MATCH_WORDS[match],
            chosen: match === cue.match,
            // What goes with whole words only does not stay behind where it would be refused.
            onChoose: () => {
              const { slip, alwaysWins, ...rest } = cue;
              change({
                ...rest,
                match,
                ...(slip && match !== 'part' && { slip }),
                ...(alwaysWins && match === 'exactly' && { alwaysWins }),
              });
            },
          }))}
        >
          <Words color="teal">{MATCH_WORDS[cue.match]}</Words>
        </Menu>
      )}
      {cue.slip && <Words kind="small">a slip forgiven</Words>}
      {cue.alwaysWins && <Words kind="small">always wins</Words>}
    </>
  );
}

/** When a cue may fire again, where that is not always. */
function againWords(cue: Cue): string {
  const again = typeof cue.again === 'object' ? `once in ${cue.again.onceIn}` : cue.again && cue.again !== 'always' ? cue.again : null;
  const running = cue.whileRunning && cue.whileRunning !== 'start over' ? `while it runs: ${cue.whileRunning}` : null;
  return [again, running].filter((each) => each !== null).join(', ');
}
