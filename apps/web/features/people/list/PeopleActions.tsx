import { router } from 'expo-router';
import { Icon } from '../../../ui/Icon';
import { Menu } from '../../../ui/Menu';
import { ActionButton, QuietButton } from '../../../ui/press';
import { counted } from '@dart-loop/core/language/counted';

const FORMATS = { csv: 'CSV', jsonl: 'JSON Lines', vcard: 'vCard' } as const;
type Format = keyof typeof FORMATS;

/** What is done with the whole list: selecting, importing, exporting, adding somebody, and its columns. */
export function PeopleActions({
  client,
  total,
  selecting,
  onSelecting,
  onAdd,
  onColumns,
  exportAs,
}: {
  client: string;
  total: number;
  selecting: boolean;
  onSelecting: () => void;
  onAdd: () => void;
  onColumns: () => void;
  exportAs: (format: Format) => void;
}) {
  return (
    <>
      <QuietButton outlined title={selecting ? 'Select none' : 'Select'} onPress={onSelecting} />
      <QuietButton outlined title="Import" onPress={() => router.push(`/${client}/import`)} />
      <Menu
        label="Export, columns and more"
        title="People"
        items={[
          ...(Object.keys(FORMATS) as Format[]).map((format) => ({
            key: format,
            words: `Export as ${FORMATS[format]}`,
            more: `The ${counted(total, 'person', 'people')} shown here`,
            onChoose: () => exportAs(format),
          })),
          { key: 'columns', words: 'Columns', more: 'Which fields the list shows', onChoose: onColumns },
        ]}
      >
        <Icon name="options" />
      </Menu>
      <ActionButton title="Add person" onPress={onAdd} />
    </>
  );
}
