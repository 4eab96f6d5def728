import { useLocalSearchParams } from 'expo-router';
import { useRef, useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { PeopleVocabulary, UploadPage } from '@dart-loop/contract';
import type { ColumnUse } from '@dart-loop/core/people/columnUse';
import { ActionButton } from '../../../ui/press';
import { Page } from '../../../ui/Page';
import { Failure, Waiting } from '../../../ui/parts';
import { Words } from '../../../ui/Words';
import { ask, sendFile } from '../../session/api';
import { useAct } from '../../session/useAct';
import type { Reading } from './FileHead';
import { ImportForm } from './ImportForm';

/**
 * Imports a file of people: it is chosen here, then mapped, previewed, corrected and imported.
 */
export function Import() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const known = useSWR<PeopleVocabulary, Error>(`/clients/${client}/people/vocabulary`).data;
  const [file, setFile] = useState<UploadPage | null>(null);
  const [uses, setUses] = useState<ColumnUse[]>([]);
  const [sending, setSending] = useState<number | null>(null);
  const { act, failure: error } = useAct();
  const input = useRef<HTMLInputElement>(null);

  const choose = async (chosen: File) => {
    setSending(0);
    await act(async () => {
      const page = await sendFile<UploadPage>(
        `/clients/${client}/people/files?name=${encodeURIComponent(chosen.name.slice(0, 200))}`,
        chosen,
        setSending,
      );
      setFile(page);
      setUses(page.columns.map((column) => column.use));
    });
    setSending(null);
  };
  const look = async (how: Reading) => {
    if (!file) return;
    const page = await ask<UploadPage>(
      'GET',
      `/clients/${client}/people/files/${file.id}?encoding=${how.encoding ?? file.encoding}&separator=${encodeURIComponent(how.separator ?? file.separator)}`,
    );
    setFile(page);
    setUses(page.columns.map((column) => column.use));
  };

  return (
    <Page
      title="Import people"
      width="wide"
      back={{ href: `/${client}/people`, words: 'People', onPhoneOnly: true }}
    >
      {error && <Failure error={error} />}
      {!file && (
        <View style={{ gap: 12, alignItems: 'flex-start', paddingVertical: 16 }}>
          <Words>
            CSV in any format and encoding, vCard, or JSON Lines as exported here. You see a preview first,
            with every cell that cannot be read. Nothing changes until you confirm, and the import can be
            undone.
          </Words>
          {sending === null ? (
            <ActionButton title="Choose a file" onPress={() => input.current?.click()} />
          ) : (
            <Waiting words={`Sending, ${Math.round(sending * 100)} %`} />
          )}
          <input
            ref={input}
            type="file"
            accept=".csv,.tsv,.txt,.vcf,.jsonl,.ndjson"
            aria-label="The file"
            style={{ position: 'absolute', width: 1, height: 1, opacity: 0 }}
            tabIndex={-1}
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              if (chosen) void choose(chosen);
            }}
          />
        </View>
      )}
      {file && (
        <ImportForm
          key={file.id}
          client={client}
          file={file}
          uses={uses}
          setUses={setUses}
          known={known}
          look={look}
          onOther={() => setFile(null)}
        />
      )}
    </Page>
  );
}
