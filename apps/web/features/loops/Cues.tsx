import { View } from 'react-native';
import type { Cue, Loop } from '@dart-loop/core';
import { freshId } from '@dart-loop/core/model/loop';
import { KEYWORD_MATCHES } from '@dart-loop/core/match/cues/index';
import { fold } from '@dart-loop/core/words/fold';
import { Menu } from '../../ui/Menu';
import { QuietButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { EditableText } from './EditableText';

const MATCH_WORDS = { exactly: 'exactly', 'first word': 'as the first word', 'whole word': 'anywhere, as a whole word' } as const;

/** What starts the loop, in words; keywords parted by commas. */
export function Cues({ loop, edit }: { loop: Loop; edit: (change: (loop: Loop) => Loop) => void }) {
  const change = (id: string, next: (cue: Cue) => Cue | null) =>
    edit((before) => ({ ...before, cues: before.cues.flatMap((cue) => (cue.id === id ? (next(cue) ?? []) : cue)) }));
  return (
    <View role="region" aria-label="Cues" style={{ paddingVertical: 4 }}>
      {loop.cues.length === 0 && <Words color="ochre">◆ Nothing starts this loop yet.</Words>}
      {loop.cues.map((cue, index) => (
        <View key={cue.id} style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 6 }}>
          <Words color="quiet">{index === 0 ? 'starts with' : 'or with'}</Words>
          <EditableText
            multiline={false}
            value={cue.words.join(', ')}
            label="Keywords"
            placeholder="keywords, with commas between"
            onChange={(typed) => {
              const words = [
                ...new Set(
                  typed
                    .split(',')
                    .map((word) => word.trim())
                    .filter((word) => fold(word) !== ''),
                ),
              ];
              if (words.length > 0) change(cue.id, (each) => ({ ...each, words }));
            }}
          >
            <Words kind="strong">{cue.words.map((word) => `“${word}”`).join(', ')}</Words>
          </EditableText>
          <Menu
            compact
            label={`matched ${MATCH_WORDS[cue.match]}. Change`}
            title="How it matches"
            items={KEYWORD_MATCHES.map((match) => ({
              key: match,
              words: MATCH_WORDS[match],
              chosen: match === cue.match,
              onChoose: () => change(cue.id, (each) => ({ ...each, match })),
            }))}
          >
            <Words color="teal">{MATCH_WORDS[cue.match]}</Words>
          </Menu>
          <QuietButton title="×" label={`Remove the cue ${cue.words.join(', ')}`} tone="quiet" onPress={() => change(cue.id, () => null)} />
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
