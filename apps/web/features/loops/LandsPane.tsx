import { useMemo } from 'react';
import { ScrollView, View } from 'react-native';
import { webStyle } from '../../ui/onWeb';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import { CHANNELS, type Outgoing } from '@dart-loop/core/channels/index';
import { smsParts } from '@dart-loop/core/channels/gsm';
import { fieldsOf } from '@dart-loop/core/loops/check/fieldsOf';
import { findStep } from '@dart-loop/core/loops/model/loop';
import { isPaid, priceWords } from '@dart-loop/core/meter/prices';
import { invented, landings } from '@dart-loop/core/engine/rehearsal/landing';
import { ChannelMark } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { grouped } from '../../ui/time';

/**
 * The chosen step on every line of the loop at once, exactly as it would be sent, with its limits, parts and
 * price.
 */
export function LandsPane({
  loop,
  stepId,
  known,
}: {
  loop: Loop;
  stepId: string | null;
  known: LoopSurroundings;
}) {
  const { colors } = useTheme();
  const place = stepId === null ? null : findStep(loop, stepId);
  const lines = known.lines.filter((line) => loop.lines.length === 0 || loop.lines.includes(line.key));
  const landed = useMemo(() => {
    if (!place) return [];
    const types = { ...fieldsOf(loop), ...known.types };
    const now = Date.UTC(2026, 10, 24, 10);
    const setting = {
      client: { ...known.client, brief: known.brief },
      person: invented(loop, types, known.client, now),
      fields: types,
      now,
    };
    const first =
      place.sceneIndex === 0 &&
      !place.scene.steps.slice(0, place.stepIndex).some((step) => step.kind === 'say' || step.kind === 'ask');
    return lines.map((line) => ({ line, all: landings(loop, place, line, setting, first) }));
  }, [loop, place, known, lines]);
  if (!place)
    return (
      <Words color="quiet">
        Select a step in the script (tap it, or use j and k) to see it as each channel shows it.
      </Words>
    );
  if (lines.length === 0)
    return <Words color="quiet">The client has no line yet; connect one under Lines.</Words>;
  if (landed.every(({ all }) => all.length === 0))
    return <Words color="quiet">{`A ${place.step.kind} says nothing to the person.`}</Words>;
  return (
    <ScrollView
      role="region"
      aria-label="As it lands"
      contentContainerStyle={{ gap: 16, paddingBottom: 24 }}
      tabIndex={0}
    >
      <Words kind="small">As sent to an invented person, Robin Vale, while the line may write.</Words>
      {landed.map(({ line, all }) => (
        <View key={line.key} role="group" aria-label={line.name} style={{ gap: 6 }}>
          <View style={{ flexDirection: 'row', alignItems: 'center', gap: 8 }}>
            <ChannelMark channel={line.channel} />
            <Words kind="smallStrong" style={{ flex: 1 }}>
              {line.name}
            </Words>
            {isPaid(line.channel) && (
              <Words kind="code">{priceWords(all.reduce((sum, { price }) => sum + price, 0))}</Words>
            )}
          </View>
          {all
            .flatMap(({ messages }) => messages)
            .map((message, at) => (
              <View key={at} style={{ gap: 4 }}>
                <View
                  style={{
                    backgroundColor: colors.inset,
                    borderRadius: 6,
                    paddingHorizontal: 11,
                    paddingVertical: 7,
                  }}
                >
                  {message.media && (
                    <Words
                      kind="code"
                      style={webStyle({ wordBreak: 'break-all' })}
                    >{`▣ ${message.media.address}`}</Words>
                  )}
                  <Words>{message.text}</Words>
                </View>
                {message.taps.length > 0 && (
                  <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 4 }}>
                    {message.taps.map((tap, index) => (
                      <View
                        key={index}
                        style={{
                          borderWidth: 1,
                          borderColor: colors.teal,
                          borderRadius: message.as === 'quick replies' ? 16 : 4,
                          paddingHorizontal: 10,
                          paddingVertical: 4,
                        }}
                      >
                        <Words kind="smallStrong" color="teal">
                          {'url' in tap ? `${tap.label} ↗` : tap.label}
                        </Words>
                      </View>
                    ))}
                  </View>
                )}
                <Words kind="code">{measures(message)}</Words>
              </View>
            ))}
        </View>
      ))}
    </ScrollView>
  );
}

/** How much of the channel's room a message takes. */
function measures(message: Outgoing): string {
  if (message.channel === 'sms') {
    const { parts, encoding, units } = smsParts(message.text);
    return `${parts === 1 ? '1 part' : `${parts} parts`} · ${units} ${encoding === 'GSM-7' ? 'of 160' : 'of 70, because of its characters'}`;
  }
  const as = message.as ? ` · as ${message.as}${message.opens ? `, opened by “${message.opens}”` : ''}` : '';
  const typing = message.typing ? ` · after ${message.typing} s of typing` : '';
  const { used, most, of } = CHANNELS[message.channel].room(message);
  return `${grouped(used)} of ${grouped(most)} ${of}${as}${typing}`;
}
