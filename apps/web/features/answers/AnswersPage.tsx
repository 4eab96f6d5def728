import type { ReactNode } from 'react';
import { ScrollView, View } from 'react-native';
import { Page, type HeadProps } from '../../ui/Page';
import { PlaceLink } from '../../ui/press';
import { FONTS, useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { TryIt } from './TryIt';

const TABS = [
  { path: '', words: 'Sources' },
  { path: '/open', words: 'Not answered' },
  { path: '/sheet', words: 'Question sheet' },
  { path: '/model', words: 'Model' },
  { path: '/try', words: 'Try it' },
] as const;
export type AnswersTab = (typeof TABS)[number]['words'];

/** The pages of Answers; beside them, on a wide screen, sources can be tried. */
export function AnswersPage({
  client,
  tab,
  children,
  ...head
}: Omit<HeadProps, 'title'> & { client: string; tab: AnswersTab; children: ReactNode }) {
  const { wide, colors, touch } = useTheme();
  const tabs = TABS.filter(({ words }) => !wide || words !== 'Try it' || words === tab);
  return (
    <View style={{ flex: 1, flexDirection: 'row' }}>
      <View style={{ flex: 1, minWidth: 0 }}>
        <Page title="Answers" {...head}>
          <View
            role="navigation"
            aria-label="Parts of Answers"
            style={{
              flexDirection: 'row',
              flexWrap: 'wrap',
              columnGap: 16,
              borderBottomWidth: 1,
              borderColor: colors.line,
              marginBottom: 12,
            }}
          >
            {tabs.map(({ path, words }) => (
              <PlaceLink
                key={words}
                href={`/${client}/answers${path}`}
                current={words === tab}
                style={{
                  minHeight: touch,
                  borderRadius: 0,
                  borderBottomWidth: 2,
                  borderColor: words === tab ? colors.ink : 'transparent',
                }}
              >
                <Words
                  color={words === tab ? 'ink' : 'quiet'}
                  style={{ fontFamily: words === tab ? FONTS.bold : FONTS.text }}
                >
                  {words}
                </Words>
              </PlaceLink>
            ))}
          </View>
          {children}
        </Page>
      </View>
      {wide && tab !== 'Try it' && (
        <ScrollView
          style={{ maxWidth: 340, width: 340, borderLeftWidth: 1, borderColor: colors.line }}
          contentContainerStyle={{ padding: 20, paddingBottom: 48 }}
          tabIndex={-1}
        >
          <Words kind="heading" role="heading" aria-level={2} style={{ marginBottom: 8 }}>
            Try it
          </Words>
          <TryIt client={client} />
        </ScrollView>
      )}
    </View>
  );
}
