import { useLocalSearchParams } from 'expo-router';
import { View } from 'react-native';
import useSWR from 'swr';
import type { Proof } from '@dart-loop/contract';
import { ActionButton } from '../../../ui/press';
import { Page } from '../../../ui/Page';
import { Empty, Failure, Waiting } from '../../../ui/parts';
import { printPage } from '../../../ui/saveFile';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { dateWords } from '../../../ui/time';

const moment = (iso: string) => dateWords(iso, { dateStyle: 'long', timeStyle: 'long', timeZone: 'UTC' });

const SAID: Record<Proof['entries'][number]['what'], string> = {
  'opt-in': 'Opted in to',
  'opt-out': 'Opted out of',
  undone: 'Undone: an earlier entry on',
};

/** An entry of the ledger in words: what, of what, how, by what. */
export function entryWords(entry: Proof['entries'][number]): string[] {
  return [
    `${SAID[entry.what]} ${entry.about}`,
    `“${entry.words}”${entry.wording === null ? '' : `, wording ${entry.wording}`}`,
    [
      `by ${entry.by}`,
      entry.step && `step ${entry.step}`,
      entry.cue && `cue ${entry.cue}`,
      entry.messageId && `message ${entry.messageId}`,
      entry.language && `in ${entry.language}`,
      entry.confirmed && 'confirmed by the person',
      entry.stated && `stated source: ${entry.stated}`,
    ]
      .filter(Boolean)
      .join(', '),
  ];
}

/** The same account as a page of its own, for paper. */
export function proofHtml(proof: Proof): string {
  const safe = (text: string) => text.replace(/[&<>"]/g, (letter) => `&#${letter.charCodeAt(0)};`);
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>${safe(`Consent of ${proof.name}`)}</title>
<style>body{font:12pt/1.5 Georgia,serif;margin:2cm;color:#1e2330}h1{font-size:18pt}table{border-collapse:collapse;width:100%}td{border-top:1px solid #bbb;padding:6pt 8pt 6pt 0;vertical-align:top}small{color:#555}</style>
<h1>${safe(`Consent of ${proof.name}`)}</h1><p>${safe(proof.client)}. ${safe(proof.identities.map(({ line, address }) => `${address} on ${line}`).join(', '))}</p>
<table>${proof.entries.map((entry) => `<tr><td><small>${safe(moment(entry.at))}</small></td><td>${entryWords(entry).map(safe).join('<br>')}</td></tr>`).join('')}</table>
<p><small>${safe(`Written on ${moment(proof.madeAt)} from the ledger, which is only ever added to.`)}</small></p></html>`;
}

/**
 * What one person has agreed to and taken back, as the ledger has it; to be printed or kept as a PDF by the
 * browser.
 */
export function ProofPage() {
  const { colors } = useTheme();
  const { client, person } = useLocalSearchParams<{ client: string; person: string }>();
  const { data, error, mutate } = useSWR<Proof, Error>(`/clients/${client}/people/${person}/proof`);
  return (
    <Page
      title={data ? `Consent of ${data.name}` : 'Consent'}
      back={{ href: `/${client}/people/${person}`, words: 'Open person' }}
      actions={
        data && data.entries.length > 0 ? (
          <ActionButton title="Print or save as PDF" onPress={() => printPage(proofHtml(data))} />
        ) : undefined
      }
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && data.entries.length === 0 && (
        <Empty
          title="No opt-ins or opt-outs yet"
          words="Opt-ins and opt-outs are shown here with their time, the wording that was shown, and the message."
        />
      )}
      {data?.entries.map((entry, index) => {
        const [what, words, how] = entryWords(entry);
        return (
          <View
            key={index}
            style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 2 }}
          >
            <Words kind="code">{moment(entry.at)}</Words>
            <Words kind="strong" color={entry.what === 'opt-in' ? 'teal' : 'ochre'}>
              {what}
            </Words>
            <Words>{words}</Words>
            <Words kind="small">{how}</Words>
          </View>
        );
      })}
    </Page>
  );
}
