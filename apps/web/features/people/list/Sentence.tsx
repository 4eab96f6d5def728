import { useState } from 'react';
import { Pressable, View } from 'react-native';
import type { PeopleCount, PeopleVocabulary } from '@dart-loop/contract';
import { conditionWords } from '@dart-loop/core/people/conditionWords';
import { ofConversation } from '@dart-loop/core/people/condition';
import { readSentence, whyUnread } from '@dart-loop/core/loops/edit/typedCondition';
import { Field } from '../../../ui/Field';
import { whenHovered } from '../../../ui/hover';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { suggest } from './suggest';

/** What is wrong with a sentence as far as it is typed; null when it reads, or is empty. */
export function problemWith(sentence: string): string | null {
  if (sentence.trim() === '') return null;
  const read = readSentence(sentence);
  if (!read.ok)
    return read.unclosed
      ? `${capital(whyUnread(read))}.`
      : `“${read.words.slice(0, 80)}” cannot be read yet.`;
  const within = ofConversation(read.condition);
  return within ? 'That is about a conversation, and people are asked about at any time.' : null;
}

const capital = (sentence: string) => sentence.charAt(0).toUpperCase() + sentence.slice(1);

/** Which people, as a sentence: read as it is typed, with ways on below it. */
export function Sentence({
  value,
  onChange,
  known,
  count,
  label = 'Only those who',
}: {
  value: string;
  onChange: (next: string) => void;
  known: PeopleVocabulary | undefined;
  count?: PeopleCount;
  label?: string;
}) {
  const { colors } = useTheme();
  const [open, setOpen] = useState(false);
  const problem = problemWith(value);
  const read = value.trim() === '' ? null : readSentence(value);
  const understood = read?.ok && !problem ? conditionWords(read.condition) : null;
  const suggestions = open && known ? suggest(value, known) : [];
  return (
    <View style={{ gap: 6 }}>
      <Field
        label={label}
        value={value}
        onChangeText={onChange}
        onFocus={() => setOpen(true)}
        placeholder="opted in on SMS and town is Harwick"
        autoCapitalize="none"
        autoCorrect={false}
        aria-describedby="sentence-reads"
      />
      <View nativeID="sentence-reads" aria-live="polite" style={{ minHeight: 20 }}>
        {problem && !suggestions.some((each) => each.sentence.startsWith(value.trimEnd())) ? (
          <Words kind="small" color="ochre">{`◆ ${problem}`}</Words>
        ) : understood && understood.toLowerCase() !== value.trim().toLowerCase() ? (
          <Words kind="small">{`Reads as: ${understood}`}</Words>
        ) : understood && count ? (
          <Words kind="small">
            {count.total === 0
              ? 'No matches.'
              : `Such as ${count.sample
                  .map((each) => each.name)
                  .slice(0, 3)
                  .join(', ')}.`}
          </Words>
        ) : null}
      </View>
      {suggestions.length > 0 && (
        <View role="group" aria-label="Ways on" style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6 }}>
          {suggestions.map((each) => (
            <Pressable
              key={each.words}
              role="button"
              onPress={() => onChange(each.sentence)}
              style={whenHovered((hovered) => ({
                minHeight: 36,
                justifyContent: 'center',
                paddingHorizontal: 10,
                borderRadius: 6,
                borderWidth: 1,
                borderColor: colors.line,
                backgroundColor: hovered ? colors.inset : colors.sheet,
              }))}
            >
              <Words kind="small" color="ink">
                {each.words}
              </Words>
            </Pressable>
          ))}
        </View>
      )}
    </View>
  );
}
