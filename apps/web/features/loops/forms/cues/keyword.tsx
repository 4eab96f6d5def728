import { useState } from 'react';
import { heardElsewhere } from '@dart-loop/core/engine/decide/clashes';
import { KEYWORD_MATCHES, MATCH_WORDS } from '@dart-loop/core/engine/cues/index';
import { readConsentWord } from '@dart-loop/core/consent/words';
import { View } from 'react-native';
import { PickRow, TextRow, TickRow } from '../../../../ui/rows';
import { Words } from '../../../../ui/Words';
import { listed, type CueEditor, type OwnProps } from './cueEditor';

export const keyword: CueEditor<'keyword'> = {
  words: 'A keyword',
  more: 'somebody writes a word',
  fresh: () => ({ kind: 'keyword', words: ['HELLO'], match: 'exactly' }),
  Own,
};

function Own({ cue, set, loop, known }: OwnProps<'keyword'>) {
  const [words, setWords] = useState(cue.words);
  // As it is typed, also while it cannot be saved yet.
  const asTyped = { ...cue, words };
  const heard = heardElsewhere(loop, asTyped, known?.others ?? []);
  const rank = (match: (typeof KEYWORD_MATCHES)[number]) => KEYWORD_MATCHES.indexOf(match);
  const consent = words.filter(
    (word) => cue.match === 'exactly' && readConsentWord(word, 'sms', known?.client.languages ?? []) !== null,
  );
  const whole = cue.match !== 'part' && cue.match !== 'pattern';
  return (
    <>
      <TextRow
        label={cue.match === 'pattern' ? 'Patterns, one per line' : 'Keywords, comma-separated'}
        placeholder={cue.match === 'pattern' ? '^(open|hours)' : 'OPEN, HOURS'}
        autoFocus
        multiline={cue.match === 'pattern'}
        value={cue.words.join(cue.match === 'pattern' ? '\n' : ', ')}
        read={(typed) =>
          listed(typed, cue.match === 'pattern' ? /\n/ : undefined).length > 0
            ? null
            : 'Write at least one keyword.'
        }
        onChange={(typed) => {
          const next = [...new Set(listed(typed, cue.match === 'pattern' ? /\n/ : undefined))];
          setWords(next);
          set({ words: next });
        }}
      />
      <View role="status" aria-label="What else starts on this" style={{ gap: 2 }}>
        {consent.map((word) => (
          <Words
            key={word}
            kind="small"
            color="ochre"
          >{`◆ “${word}” is an opt-out, opt-in or help word, which goes before every loop.`}</Words>
        ))}
        {heard.length === 0 && consent.length === 0 && (
          <Words kind="small">Nothing else starts on this.</Words>
        )}
        {heard.map(({ word, other, match, same }) => (
          <Words key={`${word} ${other.name}`} kind="small" color="ochre">
            {same
              ? `◆ “${word}” is heard by ${other.name} too, ${MATCH_WORDS[match]} as here: the one that stands first among the loops answers.`
              : rank(match) < rank(cue.match)
                ? `◆ “${word}” is heard by ${other.name} first, which takes it ${MATCH_WORDS[match]}.`
                : `◇ “${word}” is also heard by ${other.name} ${MATCH_WORDS[match]}, which is broader: here it is taken first.`}
          </Words>
        ))}
      </View>
      <PickRow
        label="Match"
        value={cue.match}
        options={KEYWORD_MATCHES.map((match) => [match, MATCH_WORDS[match]] as const)}
        onChange={(match) =>
          set({
            match,
            slip: match === 'part' || match === 'pattern' ? undefined : cue.slip,
            alwaysWins: match === 'exactly' ? cue.alwaysWins : undefined,
          })
        }
      />
      {whole && (
        <TickRow
          label="Allow one typing error"
          hint="in words of five letters or more"
          on={cue.slip === true}
          onChange={(on) => set({ slip: on ? true : undefined })}
        />
      )}
      {cue.match === 'exactly' && (
        <TickRow
          label="Always wins"
          hint="also while another loop waits for an answer"
          on={cue.alwaysWins === true}
          onChange={(on) => set({ alwaysWins: on ? true : undefined })}
        />
      )}
    </>
  );
}
