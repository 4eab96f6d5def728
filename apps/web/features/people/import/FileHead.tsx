import { View } from 'react-native';
import type { UploadPage } from '@dart-loop/contract';
import { Menu } from '../../../ui/Menu';
import { QuietButton } from '../../../ui/press';
import { Words } from '../../../ui/Words';

/** Another way to read the file. */
export interface Reading {
  encoding?: string;
  separator?: string;
}

/** The file that was chosen, as it was read, and how it may be read otherwise. */
export function FileHead({
  file,
  look,
  onOther,
}: {
  file: UploadPage;
  look: (how: Reading) => Promise<void>;
  onOther: () => void;
}) {
  return (
    <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
      <Words kind="strong">{file.name}</Words>
      <Words kind="small">
        {file.format === 'csv'
          ? `${file.encoding}, separated by ${file.separator === '\t' ? 'tabs' : `“${file.separator}”`}`
          : file.format}
      </Words>
      <View style={{ flex: 1 }} />
      {file.format === 'csv' && (
        <Menu
          label="File settings"
          title="File settings"
          items={[
            ...(['utf-8', 'windows-1252', 'utf-16le', 'utf-16be'] as const).map((encoding) => ({
              key: encoding,
              words: encoding,
              chosen: encoding === file.encoding,
              onChoose: () => void look({ encoding }),
            })),
            ...(
              [
                [',', 'comma-separated'],
                [';', 'semicolon-separated'],
                ['\t', 'tab-separated'],
                ['|', 'bar-separated'],
              ] as const
            ).map(([separator, words]) => ({
              key: words,
              words,
              chosen: separator === file.separator,
              onChoose: () => void look({ separator }),
            })),
          ]}
        >
          <Words kind="strong" color="teal" style={{ paddingHorizontal: 6 }}>
            File settings
          </Words>
        </Menu>
      )}
      <QuietButton title="Choose another file" onPress={onOther} />
    </View>
  );
}
