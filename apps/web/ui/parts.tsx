import { useEffect, useRef, type ReactNode } from 'react';
import type { ChannelKind } from '@dart-loop/core';
import { CHANNEL_NAMES } from '@dart-loop/core/channels/names';
import { View, type StyleProp, type ViewStyle } from 'react-native';
import { onWeb } from './onWeb';
import Svg, { Path } from 'react-native-svg';
import { ActionButton } from './press';
import { FONTS, useTheme, type Palette } from './theme';
import { Words } from './Words';

/** A channel as its two letters in ink. */
export function ChannelMark({ channel }: { channel: ChannelKind }) {
  const { colors } = useTheme();
  const { mark, name } = CHANNEL_NAMES[channel];
  return (
    <View
      role="img"
      aria-label={name}
      style={{ borderWidth: 1, borderColor: colors.quiet, borderRadius: 4, paddingHorizontal: 4 }}
    >
      <Words kind="code" style={{ lineHeight: 18 }} color="ink">
        {mark}
      </Words>
    </View>
  );
}

/** Our name, with the loop drawn between its two words. */
export function Wordmark() {
  const { colors } = useTheme();
  return (
    <View role="img" aria-label="Dart Loop" style={{ flexDirection: 'row', alignItems: 'center' }}>
      <Words style={{ fontFamily: FONTS.heading, fontSize: 20, lineHeight: 24 }}>{'Dart '}</Words>
      <Svg width={18} height={18} viewBox="0 0 32 32" style={{ marginLeft: -4, marginRight: 1 }}>
        <Path
          d="M23.5 12.5A9 9 0 1 0 25 17"
          fill="none"
          stroke={colors.vermilion}
          strokeWidth={4}
          strokeLinecap="round"
        />
        <Path d="M27.4 4.6 25 14.6l-8-4.4z" fill={colors.vermilion} />
      </Svg>
      <Words style={{ fontFamily: FONTS.heading, fontSize: 20, lineHeight: 24 }}>Loop</Words>
    </View>
  );
}

/** A word set into a line: a tag, a field that is merged. */
export function Inset({ words }: { words: string }) {
  const { colors } = useTheme();
  return (
    <View
      style={{
        backgroundColor: colors.inset,
        borderBottomWidth: 1,
        borderColor: colors.ink,
        borderRadius: 2,
        paddingHorizontal: 4,
        flexShrink: 1,
      }}
    >
      <Words kind="small" color="ink" numberOfLines={1}>
        {words}
      </Words>
    </View>
  );
}

type Tone = 'failing' | 'warning' | 'quiet' | 'live' | 'ahead';

/** States as a shape with their colour; the word stands beside it. */
export function StateShape({ tone }: { tone: Tone }) {
  const shape = {
    failing: ['▲', 'red'],
    warning: ['◆', 'ochre'],
    quiet: ['●', 'quiet'],
    live: ['●', 'vermilion'],
    ahead: ['◐', 'ochre'],
  }[tone] as [string, keyof Palette];
  return (
    <Words aria-hidden color={shape[1]} style={{ fontSize: 13, width: 18 }}>
      {shape[0]}
    </Words>
  );
}

const TONE_COLORS: Partial<Record<Tone, keyof Palette>> = {
  failing: 'red',
  warning: 'ochre',
  ahead: 'ochre',
};

/** How something is: the shape, and the sentence beside it, in its colour where it asks for attention. */
export function StateLine({
  tone,
  kind = 'small',
  color = TONE_COLORS[tone],
  role,
  title,
  children,
}: {
  tone: Tone;
  kind?: 'small' | 'text';
  color?: keyof Palette;
  role?: 'status';
  /** Shown when a pointer rests on it. */
  title?: string;
  children: ReactNode;
}) {
  return (
    <View role={role} style={{ flexDirection: 'row', gap: 2 }}>
      <StateShape tone={tone} />
      <Words kind={kind} color={color} style={{ flex: 1 }} {...onWeb({ title })}>
        {children}
      </Words>
    </View>
  );
}

export function Sheet({ children, style }: { children: ReactNode; style?: StyleProp<ViewStyle> }) {
  const { colors } = useTheme();
  return (
    <View
      style={[
        { backgroundColor: colors.sheet, borderWidth: 1, borderColor: colors.line, borderRadius: 6 },
        style,
      ]}
    >
      {children}
    </View>
  );
}

/** What belongs here, why it matters, and the one action. */
export function Empty({ title, words, action }: { title: string; words: string; action?: ReactNode }) {
  return (
    <View style={{ paddingVertical: 32, gap: 8, alignItems: 'flex-start' }}>
      <Words kind="heading">{title}</Words>
      <Words color="quiet">{words}</Words>
      {action}
    </View>
  );
}

export function Waiting({ words = 'Loading' }: { words?: string }) {
  return (
    <View role="status" style={{ paddingVertical: 32 }}>
      <Words color="quiet">{words} …</Words>
    </View>
  );
}

/** What happened, what was kept, and what to do. */
export function Failure({ error, again }: { error: Error; again?: () => void }) {
  return (
    <View role="alert" style={{ paddingVertical: 24, gap: 8, alignItems: 'flex-start' }}>
      <View style={{ flexDirection: 'row' }}>
        <StateShape tone="failing" />
        <Words kind="strong" color="red">
          {error.name}
        </Words>
      </View>
      <Words>{error.message}</Words>
      {again && <ActionButton title="Try again" onPress={again} />}
    </View>
  );
}

/** A sentence about what has just happened, read out when it appears. */
export function Notice({ tone, children }: { tone: 'failing' | 'warning' | 'quiet'; children: ReactNode }) {
  const { colors } = useTheme();
  return (
    <View
      role={tone === 'failing' ? 'alert' : 'status'}
      style={{
        flexDirection: 'row',
        gap: 4,
        padding: 12,
        borderRadius: 6,
        backgroundColor: colors.inset,
        marginVertical: 8,
      }}
    >
      <StateShape tone={tone} />
      <View style={{ flex: 1, gap: 4 }}>
        {typeof children === 'string' ? (
          <Words kind="small" color="ink">
            {children}
          </Words>
        ) : (
          children
        )}
      </View>
    </View>
  );
}

/**
 * Why what was pressed did not work; it comes into view, as the press may have been far from here. Nothing
 * where there is no problem.
 */
export function Refused({ problem, children }: { problem: string | null | undefined; children?: ReactNode }) {
  const place = useRef<View>(null);
  useEffect(() => {
    if (problem)
      (place.current as unknown as Partial<Element> | null)?.scrollIntoView?.({ block: 'nearest' });
  }, [problem]);
  if (!problem) return null;
  return (
    <View ref={place}>
      <Notice tone="failing">
        <Words kind="small" color="ink">
          {problem}
        </Words>
        {children}
      </Notice>
    </View>
  );
}
