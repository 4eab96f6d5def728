import { useEffect, type ReactNode } from 'react';
import { ScrollView, View } from 'react-native';
import { Icon } from './Icon';
import { PlaceLink } from './press';
import { useTheme } from './theme';
import { Words } from './Words';

/** Where a page belongs: its link stands above the title. */
export interface Back {
  href: string;
  words: string;
  /** The place is in the rail of a wide screen anyway. */
  onPhoneOnly?: boolean;
}

/** A page's title, and what is true of it: where it belongs, what it is, and what can be done there. */
export interface HeadProps {
  title: string;
  back?: Back;
  /** What this is, in one line. */
  about?: ReactNode;
  /** Beside the title; on a phone below it, where there is no room. */
  actions?: ReactNode;
}

/** How far a page's content reaches to the right, in pixels; its left edge is the same everywhere. */
const WIDTHS = { form: 640, text: 860, wide: 1_120 };

/** The space around the content of every screen, in pixels. */
export function usePageInset(): { paddingHorizontal: number; paddingTop: number } {
  const { wide } = useTheme();
  return { paddingHorizontal: wide ? 32 : 16, paddingTop: wide ? 20 : 12 };
}

/** The head of every screen. The document's title follows it. */
export function PageHead({ title, back, about, actions }: HeadProps) {
  const { wide } = useTheme();
  usePageTitle(title);
  const backLink = back && (!back.onPhoneOnly || !wide) && (
    <PlaceLink href={back.href} style={{ alignSelf: 'flex-start', minHeight: wide ? 32 : 44 }}>
      <View style={{ flexDirection: 'row', alignItems: 'center', gap: 2, marginLeft: -4 }}>
        <Icon name="back" size={18} color="teal" />
        <Words kind="smallStrong" color="teal">
          {back.words}
        </Words>
      </View>
    </PlaceLink>
  );
  const aboutLine = typeof about === 'string' ? <Words kind="small">{about}</Words> : about;
  return (
    <View style={{ paddingBottom: 16 }}>
      {backLink}
      <View
        style={{
          flexDirection: 'row',
          flexWrap: wide ? 'nowrap' : 'wrap',
          justifyContent: 'space-between',
          columnGap: 16,
          rowGap: 8,
        }}
      >
        <View style={{ flexShrink: 1, gap: 2 }}>
          <Words kind="title">{title}</Words>
          {aboutLine}
        </View>
        {actions && (
          <View
            style={{ flexDirection: 'row', flexWrap: 'wrap', flexShrink: 1, gap: 8, alignItems: 'center' }}
          >
            {actions}
          </View>
        )}
      </View>
    </View>
  );
}

/** A page of one column. */
export function Page({
  children,
  width = 'text',
  above,
  ...head
}: HeadProps & { children: ReactNode; width?: keyof typeof WIDTHS; above?: ReactNode }) {
  return (
    <ScrollView
      contentContainerStyle={{ ...usePageInset(), paddingBottom: 48 }}
      style={{ flex: 1 }}
      tabIndex={-1}
    >
      {above}
      <View style={{ width: '100%', maxWidth: WIDTHS.wide }}>
        <PageHead {...head} />
      </View>
      <View style={{ width: '100%', maxWidth: WIDTHS[width] }}>{children}</View>
    </ScrollView>
  );
}

export function usePageTitle(title: string) {
  useEffect(() => {
    document.title = `${title} · Dart Loop`;
  }, [title]);
}
