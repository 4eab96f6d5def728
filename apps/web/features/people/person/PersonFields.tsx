import type { ReactNode } from 'react';
import { View } from 'react-native';
import type { By, PersonPage } from '@dart-loop/contract';
import { Empty } from '../../../ui/parts';
import { QuietButton } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { webStyle } from '../../../ui/onWeb';
import { Words } from '../../../ui/Words';
import { Heading } from './NamedList';

/** What is known of a person, each with who set it and when. */
export function PersonFields({
  facts,
  source,
  change,
}: {
  facts: PersonPage['facts'];
  source: (by: By | null, at: string | null) => ReactNode;
  /** Opens the form of a field, or of a new one (null); absent for those who may only look. */
  change?: (key: string | null) => void;
}) {
  const { colors } = useTheme();
  return (
    <View style={{ width: '100%' }}>
      <Heading title="Fields" add={change ? () => change(null) : undefined} label="Add field" />
      {facts.length === 0 && (
        <Empty
          title="No fields yet"
          words="Answers to a loop’s questions are shown here, with who set them and when."
        />
      )}
      {facts.map((fact) => (
        <View key={fact.key} style={{ borderBottomWidth: 1, borderColor: colors.line, paddingVertical: 8 }}>
          <View style={{ flexDirection: 'row', columnGap: 12, alignItems: 'center' }}>
            <Words color="quiet" style={{ flexShrink: 1 }}>
              {fact.name}
            </Words>
            <View style={{ flex: 1 }} />
            <Words
              kind="strong"
              style={[
                { flexShrink: 1, minWidth: 0, textAlign: 'right' },
                webStyle({ wordBreak: 'break-word' }),
              ]}
            >
              {fact.words}
            </Words>
            {change && (
              <QuietButton
                title="Change"
                tone="teal"
                label={`Change ${fact.name}`}
                onPress={() => change(fact.key)}
              />
            )}
          </View>
          <View
            style={{
              flexDirection: 'row',
              flexWrap: 'wrap',
              columnGap: 8,
              justifyContent: 'space-between',
            }}
          >
            {source(fact.by, fact.at)}
            <Words kind="small">{fact.personal ? `${fact.type}, personal` : fact.type}</Words>
          </View>
        </View>
      ))}
    </View>
  );
}
