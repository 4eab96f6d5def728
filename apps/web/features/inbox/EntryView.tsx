import { useState } from 'react';
import { Pressable, View } from 'react-native';
import { hint, webStyle } from '../../ui/onWeb';
import type { Entry } from '@dart-loop/contract';
import { PLACES } from '@dart-loop/core/engine/decide/decision';
import { Dialog } from '../../ui/Menu';
import { useTheme, type Palette } from '../../ui/theme';
import { clock, exact } from '../../ui/time';
import { Words } from '../../ui/Words';

/** One entry of a conversation: what came in, what goes out, or what the loop did between. */
export function EntryView({ entry }: { entry: Entry }) {
  switch (entry.kind) {
    case 'stage':
      return <Stage entry={entry} />;
    case 'in':
      return <Came entry={entry} />;
    case 'out':
      return <Goes entry={entry} />;
  }
}

function Time({ at }: { at: string }) {
  return (
    <Words kind="code" {...hint(exact(at))}>
      {clock(at)}
    </Words>
  );
}

function Came({ entry }: { entry: Extract<Entry, { kind: 'in' }> }) {
  const { colors } = useTheme();
  const elsewhere = entry.how === 'elsewhere';
  const commented = entry.how === 'commented';
  return (
    <View style={{ alignSelf: elsewhere ? 'flex-end' : 'flex-start', maxWidth: '85%', gap: 2 }}>
      {commented && (
        <Words
          kind="small"
          style={webStyle({ borderLeftWidth: 2, borderColor: colors.line, paddingLeft: 8 })}
        >
          {entry.post ? `commented on the post “${entry.post}”` : 'commented on a post'}
        </Words>
      )}
      <View style={{ flexDirection: elsewhere ? 'row-reverse' : 'row', alignItems: 'flex-end', gap: 8 }}>
        <View
          style={{
            flexShrink: 1,
            backgroundColor: elsewhere ? undefined : colors.sheet,
            borderWidth: 1,
            borderStyle: commented ? 'dashed' : 'solid',
            borderColor: elsewhere ? colors.plum : commented ? colors.quiet : colors.line,
            borderRadius: 6,
            paddingHorizontal: 12,
            paddingVertical: 8,
          }}
        >
          <Words>{entry.words}</Words>
          {entry.how === 'tapped' && <Words kind="small">tapped</Words>}
        </View>
        <Time at={entry.at} />
      </View>
      {elsewhere && (
        <Words kind="small" color="plum">
          {'■ written in the platform’s own inbox'}
        </Words>
      )}
    </View>
  );
}

const VIA = {
  'private reply': 'privately under the comment',
  'public reply': 'publicly under the comment',
  'by hand, late': 'by hand, after the window',
  template: 'as an approved template',
} as const;

/** What became of a message, in a word and a shape. */
function became(entry: Extract<Entry, { kind: 'out' }>): { words: string; color: keyof Palette } | null {
  const { status, failure, body, readAt, deliveredAt } = entry;
  const why = failure ? ` ${failure.reason} ${failure.remedy}` : '';
  if (status === 'queued') return { words: failure ? `◆ held:${why}` : '◆ being sent', color: 'ochre' };
  if (status === 'held') return { words: `◆${why}`, color: 'ochre' };
  if (status === 'failed') return { words: `▲ not sent:${why}`, color: 'red' };
  const parts = body.parts === undefined ? [] : [body.parts === 1 ? '1 part' : `${body.parts} parts`];
  const words = [
    ...parts,
    ...(readAt ? [`read ${clock(readAt)}`] : deliveredAt ? [`delivered ${clock(deliveredAt)}`] : []),
  ];
  return words.length > 0 ? { words: words.join(', '), color: 'quiet' } : null;
}

function Goes({ entry }: { entry: Extract<Entry, { kind: 'out' }> }) {
  const { colors } = useTheme();
  const { body, status, by, via } = entry;
  const end = became(entry);
  const edge =
    status === 'failed' ? colors.red : by ? colors.plum : status === 'held' ? colors.ochre : undefined;
  return (
    <View style={{ alignSelf: 'flex-end', maxWidth: '85%', alignItems: 'flex-end' }}>
      <View style={{ flexDirection: 'row', alignItems: 'flex-end', gap: 8 }}>
        <Time at={entry.at} />
        <View
          style={{
            flexShrink: 1,
            backgroundColor: by || status === 'held' ? undefined : colors.inset,
            borderRadius: 6,
            paddingHorizontal: 12,
            paddingVertical: 8,
            borderWidth: edge ? 1 : 0,
            borderStyle: status === 'held' ? 'dashed' : 'solid',
            borderColor: edge,
          }}
        >
          {body.media && (
            <Words
              kind="small"
              style={webStyle({ wordBreak: 'break-all' })}
            >{`${body.media.what}: ${body.media.address}`}</Words>
          )}
          {body.text !== '' && <Words>{body.text}</Words>}
          {body.opens && <Words kind="small">{`behind “${body.opens}”:`}</Words>}
          {body.taps.map((tap) => (
            <View
              key={'ref' in tap ? tap.ref : tap.url}
              style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 4, marginTop: 4 }}
            >
              <Words kind="smallStrong" color="teal">
                {'url' in tap ? `${tap.label} ↗` : tap.label}
              </Words>
              {'ref' in tap && tap.description && <Words kind="small">{tap.description}</Words>}
            </View>
          ))}
        </View>
      </View>
      {by && <Words kind="small" color="plum">{`■ ${by}`}</Words>}
      {via && (
        <Words kind="small" color="ink">
          {VIA[via]}
        </Words>
      )}
      {end && (
        <Words kind="small" color={end.color} style={{ textAlign: 'right' }}>
          {end.words}
        </Words>
      )}
    </View>
  );
}

function Stage({ entry }: { entry: Extract<Entry, { kind: 'stage' }> }) {
  const { colors } = useTheme();
  const [open, setOpen] = useState(false);
  if (entry.words.length === 0) return null;
  return (
    <View
      style={{
        borderLeftWidth: 2,
        borderColor: colors.line,
        paddingLeft: 10,
        marginVertical: 2,
        alignSelf: 'center',
        width: '88%',
      }}
    >
      <Words kind="direction">{entry.words.join(' ')}</Words>
      {entry.decision && (
        <>
          <Pressable
            role="button"
            onPress={() => setOpen(true)}
            style={{ minHeight: 32, justifyContent: 'center', alignSelf: 'flex-start' }}
          >
            <Words kind="direction" color="teal" style={{ textDecorationLine: 'underline' }}>
              Why did this happen?
            </Words>
          </Pressable>
          <Dialog title="Why did this happen?" open={open} onClose={() => setOpen(false)}>
            <View style={{ padding: 12, gap: 14 }}>
              {entry.decision.candidates.map((candidate, index) => (
                <View key={index} style={{ gap: 2 }}>
                  <View style={{ flexDirection: 'row', gap: 6, alignItems: 'baseline', flexWrap: 'wrap' }}>
                    <Words kind="strong" color={candidate.outcome === 'won' ? 'ink' : 'quiet'}>
                      {candidate.outcome === 'won' ? '● ' : '○ '}
                      {candidate.who}
                    </Words>
                    <Words kind="small">{candidate.outcome === 'won' ? 'answered' : 'did not answer'}</Words>
                  </View>
                  <Words
                    kind="small"
                    color="ink"
                  >{`${candidate.reason.charAt(0).toUpperCase()}${candidate.reason.slice(1)}.`}</Words>
                  <Words kind="small">{`Place ${PLACES[candidate.place]} of 12 in the order: ${candidate.place}.`}</Words>
                </View>
              ))}
            </View>
          </Dialog>
        </>
      )}
    </View>
  );
}
