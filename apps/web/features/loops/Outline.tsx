import { memo } from 'react';
import { ScrollView, View } from 'react-native';
import type { Finding, Loop } from '@dart-loop/core';
import { cueWords } from '@dart-loop/core/engine/cues/index';
import { PlaceLink, TextLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { FindingMark } from './Findings';

/**
 * The loop at a glance: its cues, its scenes with numbers, findings and how many came, and how far paths are
 * covered.
 */
export const Outline = memo(function Outline({
  client,
  loop,
  reached,
  findings,
  paths,
}: {
  client: string;
  loop: Loop;
  reached: Record<string, number> | null;
  findings: readonly Finding[];
  /** How many paths there are, and how many have a take; null until it is known. */
  paths: { count: number; covered: number; cut: boolean } | null;
}) {
  const { colors } = useTheme();
  return (
    <View
      role="navigation"
      aria-label="Scenes"
      style={{ width: 206, borderRightWidth: 1, borderColor: colors.line }}
    >
      <ScrollView contentContainerStyle={{ padding: 12 }} tabIndex={-1}>
        <TextLink href={`/${client}/loops`}>‹ Loops</TextLink>
        <Words kind="small" style={{ marginTop: 4, paddingHorizontal: 8 }}>
          Cues
        </Words>
        {loop.cues.length === 0 && (
          <Words kind="small" color="ochre" style={{ paddingHorizontal: 8, paddingVertical: 6 }}>
            ◆ none yet
          </Words>
        )}
        {loop.cues.slice(0, 8).map((cue) => (
          <View
            key={cue.id}
            style={{ paddingHorizontal: 8, paddingVertical: 4, flexDirection: 'row', gap: 6 }}
          >
            <Words kind="small" color="ink" numberOfLines={2} style={{ flex: 1 }}>
              {cueWords(cue)}
            </Words>
            <FindingMark findings={findings.filter((finding) => finding.cueId === cue.id)} />
          </View>
        ))}
        <Words kind="small" style={{ marginTop: 12, paddingHorizontal: 8 }}>
          Scenes
        </Words>
        {loop.scenes.map((scene, index) => (
          <PlaceLink
            key={scene.id}
            href={`#scene-${scene.id}`}
            style={{ paddingHorizontal: 8, minHeight: 36 }}
          >
            <View style={{ flexDirection: 'row', gap: 8, alignItems: 'baseline' }}>
              <Words kind="code">{String(index + 1)}</Words>
              <Words kind="small" color="ink" numberOfLines={2} style={{ flex: 1 }}>
                {scene.name}
              </Words>
              <FindingMark findings={findings.filter((finding) => finding.sceneId === scene.id)} />
              {reached && scene.steps[0] && (
                <Words kind="code">{String(reached[scene.steps[0].id] ?? 0)}</Words>
              )}
            </View>
          </PlaceLink>
        ))}
        {paths && (
          <Words kind="small" style={{ marginTop: 16, paddingHorizontal: 8 }}>
            {`${paths.count}${paths.cut ? '+' : ''} ${paths.count === 1 ? 'path' : 'paths'}, ${paths.covered} ${paths.covered === 1 ? 'has' : 'have'} a take`}
          </Words>
        )}
      </ScrollView>
    </View>
  );
});
