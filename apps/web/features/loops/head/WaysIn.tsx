import { useMemo, useState } from 'react';
import { Image, View } from 'react-native';
import { webStyle } from '../../../ui/onWeb';
import useSWR from 'swr';
import type { WaysInPage } from '@dart-loop/contract';
import type { AdQuestions } from '@dart-loop/core';
import { adQuestionsSheet } from '@dart-loop/core/channels/adQuestions';
import { qrSvg } from '@dart-loop/core/channels/qr';
import { buttonHtml, codeHtml, waysInSheet } from '@dart-loop/core/channels/waysIn';
import { Dialog } from '../../../ui/Menu';
import { QuietButton } from '../../../ui/press';
import { ChannelMark, Failure, Notice, Waiting } from '../../../ui/parts';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { printPage, saveFile, svgToPng } from '../../../ui/saveFile';

/**
 * What can be handed out so that people come into the loop: words to write, links to open, QR codes to print.
 */
export function WaysIn({ path, open, onClose }: { path: string; open: boolean; onClose: () => void }) {
  const { colors } = useTheme();
  const { data, error, mutate } = useSWR<WaysInPage, Error>(open ? `${path}/ways-in` : null);
  return (
    <Dialog title="Ways in" open={open} onClose={onClose}>
      <View style={{ padding: 12, gap: 12 }}>
        {error && !data && <Failure error={error} again={() => void mutate()} />}
        {!data && !error && <Waiting />}
        {data?.ways.length === 0 && (
          <Words color="quiet">
            None of this loop’s cues can be shared: they start by themselves. Add a keyword or a link.
          </Words>
        )}
        {data && data.ways.length > 0 && <WholeSheet page={data} />}
        {data?.adQuestions && data.adQuestions.questions.length > 0 && (
          <AdQuestionsOffer found={data.adQuestions} />
        )}
        <View role="list" aria-label="Ways in">
          {data?.ways.map((way) => (
            <View
              key={`${way.lineKey} ${way.cueId}`}
              role="listitem"
              style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 12, gap: 6 }}
            >
              <View style={{ flexDirection: 'row', alignItems: 'center', gap: 8 }}>
                <ChannelMark channel={way.channel} />
                <Words kind="strong" style={{ flex: 1 }}>
                  {way.words}
                </Words>
              </View>
              {way.link && (
                <LinkWithCode
                  link={way.link}
                  caption={data.client}
                  name={`${data.loop} ${way.lineKey}`}
                  onWebsite={
                    way.picture === null
                      ? null
                      : {
                          button: buttonHtml(way.link, `Write to ${data.client}`),
                          code: codeHtml(way.link, way.picture, way.words),
                        }
                  }
                />
              )}
            </View>
          ))}
        </View>
      </View>
    </Dialog>
  );
}

/** What the ad that opens the loop asks first, to be put into it. */
function AdQuestionsOffer({ found }: { found: AdQuestions }) {
  const { questions, endsBecause, privacyLink } = found;
  const name = `First questions of ${found.loop}`;
  return (
    <View style={{ gap: 4 }}>
      <Words kind="smallStrong">{`The ad’s first questions: ${questions.length}`}</Words>
      <Words kind="small" color="ink">
        {questions.map(({ question }, index) => `${index + 1}. ${question}`).join('  ')}
      </Words>
      {endsBecause && <Words kind="small">{`They end there because ${endsBecause}.`}</Words>}
      {privacyLink === null && (
        <Notice tone="warning">The client’s brief has no privacy link; an ad that asks must show one.</Notice>
      )}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        <QuietButton
          outlined
          title="Save as JSON"
          onPress={() =>
            saveFile(`${name}.json`, new Blob([JSON.stringify(found, null, 2)], { type: 'application/json' }))
          }
        />
        <QuietButton
          outlined
          title="Save as a page"
          onPress={() => saveFile(`${name}.html`, new Blob([adQuestionsSheet(found)], { type: 'text/html' }))}
        />
      </View>
    </View>
  );
}

/** All of them as one page, for the client's desk or inbox. */
function WholeSheet({ page }: { page: WaysInPage }) {
  const sheet = (use: (html: string) => void) => () => use(waysInSheet(page.client, page.loop, page.ways));
  return (
    <View style={{ gap: 4 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        <QuietButton outlined title="Print all" onPress={sheet(printPage)} />
        <QuietButton
          outlined
          title="Save as a page"
          onPress={sheet((html) =>
            saveFile(`Ways into ${page.loop}.html`, new Blob([html], { type: 'text/html' })),
          )}
        />
      </View>
    </View>
  );
}

function LinkWithCode({
  link,
  caption,
  name,
  onWebsite,
}: {
  link: string;
  caption: string;
  name: string;
  /** The same as HTML for a website. */
  onWebsite: { button: string; code: string } | null;
}) {
  const svg = useMemo(() => qrSvg(link, caption), [link, caption]);
  const [copied, setCopied] = useState<string | null>(null);
  const copy = (text: string) => void navigator.clipboard.writeText(text).then(() => setCopied(text));
  return (
    <View style={{ flexDirection: 'row', gap: 12, flexWrap: 'wrap', alignItems: 'flex-start' }}>
      <Image
        source={{ uri: `data:image/svg+xml,${encodeURIComponent(svg)}` }}
        accessibilityLabel={`QR code for ${link}`}
        style={{ width: 128, height: 140 }}
        resizeMode="contain"
      />
      <View style={{ flex: 1, minWidth: 180, gap: 2, alignItems: 'flex-start' }}>
        <Words kind="code" color="ink" selectable style={webStyle({ wordBreak: 'break-all' })}>
          {link}
        </Words>
        <QuietButton
          title={copied === link ? 'Copied' : 'Copy the link'}
          label={`Copy ${link}`}
          tone="teal"
          onPress={() => copy(link)}
        />
        <View style={{ flexDirection: 'row', flexWrap: 'wrap' }}>
          <QuietButton
            title="Save as SVG"
            label={`Save the QR code for ${link} as SVG`}
            tone="teal"
            onPress={() => saveFile(`${name}.svg`, new Blob([svg], { type: 'image/svg+xml' }))}
          />
          <QuietButton
            title="Save as PNG"
            label={`Save the QR code for ${link} as PNG`}
            tone="teal"
            onPress={() => void svgToPng(svg).then((png) => saveFile(`${name}.png`, png))}
          />
        </View>
        {onWebsite && (
          <View style={{ flexDirection: 'row', flexWrap: 'wrap' }}>
            <QuietButton
              title={copied === onWebsite.button ? 'Copied' : 'Copy as a button'}
              label={`Copy HTML of a button for ${link}`}
              tone="teal"
              onPress={() => copy(onWebsite.button)}
            />
            <QuietButton
              title={copied === onWebsite.code ? 'Copied' : 'Copy as a picture'}
              label={`Copy HTML of the QR code for ${link}`}
              tone="teal"
              onPress={() => copy(onWebsite.code)}
            />
          </View>
        )}
      </View>
    </View>
  );
}
