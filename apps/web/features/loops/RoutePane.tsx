import { useMemo, useState } from 'react';
import { ScrollView, View } from 'react-native';
import { onWeb, webStyle } from '../../ui/onWeb';
import type { Loop } from '@dart-loop/core';
import { layOut, routeSvg } from '@dart-loop/core/loops/route/routeSvg';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { saveFile, svgToPng } from '../../ui/saveFile';

const ZOOMS = [0.5, 0.7, 0.85, 1, 1.25, 1.6, 2];

/** The loop as a line diagram, drawn by the program: to see the whole by. A tap on a stop opens its scene. */
export function RoutePane({
  loop,
  reached,
  passed,
  open,
}: {
  loop: Loop;
  reached: Record<string, number> | null;
  /** How many people went from step to step; null while it is not live. */
  passed: Record<string, number> | null;
  open: (sceneId: string) => void;
}) {
  const { colors } = useTheme();
  /**
   * Null until it is known how much room there is: then all of its width is shown, where that can be read.
   */
  const [chosen, setZoom] = useState<number | null>(null);
  const [room, setRoom] = useState(0);
  const route = useMemo(() => layOut(loop, reached, passed), [loop, reached, passed]);
  const svg = useMemo(
    () =>
      routeSvg(route, {
        paper: colors.sheet,
        ink: colors.ink,
        quiet: colors.quiet,
        line: colors.teal,
        stop: colors.vermilion,
      }),
    [route, colors],
  );
  const name = loop.name || 'loop';
  if (loop.scenes.length === 0)
    return <Words color="quiet">There is no scene yet, so there is nothing to draw.</Words>;
  const fitting = ZOOMS.findLastIndex((each) => each <= 1 && route.width * each <= room - 30);
  const zoom = chosen ?? Math.max(0, fitting);
  const scale = ZOOMS[zoom]!;
  return (
    <View role="region" aria-label="Route" style={{ flex: 1, gap: 8, minHeight: 0 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 4 }}>
        <QuietButton title="−" label="Zoom out" disabled={zoom === 0} onPress={() => setZoom(zoom - 1)} />
        <Words kind="code">{`${Math.round(scale * 100)} %`}</Words>
        <QuietButton
          title="+"
          label="Zoom in"
          disabled={zoom === ZOOMS.length - 1}
          onPress={() => setZoom(zoom + 1)}
        />
        <QuietButton
          title="Save as SVG"
          onPress={() => saveFile(`${name} route.svg`, new Blob([svg], { type: 'image/svg+xml' }))}
        />
        <QuietButton
          title="Save as PNG"
          onPress={() => void svgToPng(svg).then((picture) => saveFile(`${name} route.png`, picture))}
        />
      </View>
      <ScrollView
        onLayout={(event) => setRoom(event.nativeEvent.layout.width)}
        style={{
          flex: 1,
          backgroundColor: colors.sheet,
          borderWidth: 1,
          borderColor: colors.line,
          borderRadius: 6,
        }}
        contentContainerStyle={{ minHeight: '100%' }}
        tabIndex={0}
      >
        <ScrollView horizontal contentContainerStyle={{ padding: 12 }}>
          <View
            {...onWeb({ dataSet: { route: 'drawing' } })}
            style={{ width: route.width * scale, height: route.height * scale }}
          >
            <Drawing svg={svg} scale={scale} width={route.width} height={route.height} />
            {route.stops.map((stop) =>
              stop.sceneId === null ? null : (
                <View
                  key={stop.sceneId}
                  role="link"
                  aria-label={`Open scene ${stop.words}`}
                  {...onWeb({
                    tabIndex: 0,
                    onClick: () => open(stop.sceneId!),
                    onKeyDown: (event: KeyboardEvent) => event.key === 'Enter' && open(stop.sceneId!),
                  })}
                  style={webStyle({
                    position: 'absolute',
                    left: (stop.x - stop.width / 2) * scale,
                    top: (stop.y - stop.height / 2) * scale,
                    width: stop.width * scale,
                    height: stop.height * scale,
                    cursor: 'pointer',
                    borderRadius: 6,
                  })}
                />
              ),
            )}
          </View>
        </ScrollView>
      </ScrollView>
    </View>
  );
}

/** The drawing itself, which says nothing to assistive technology: the stops over it do. */
function Drawing({
  svg,
  scale,
  width,
  height,
}: {
  svg: string;
  scale: number;
  width: number;
  height: number;
}) {
  return (
    <View
      aria-hidden
      style={{ width: width * scale, height: height * scale }}
      ref={(view) => {
        const node = view as unknown as HTMLElement | null;
        if (!node) return;
        node.innerHTML = svg;
        const drawn = node.firstElementChild as SVGElement | null;
        drawn?.setAttribute('width', String(width * scale));
        drawn?.setAttribute('height', String(height * scale));
      }}
    />
  );
}
