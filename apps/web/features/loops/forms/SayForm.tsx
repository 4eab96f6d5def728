import { useLocalSearchParams } from 'expo-router';
import { fileNamed } from '@dart-loop/core/people/client';
import type { Template } from '@dart-loop/core/channels/template';
import { usableForAnybody, type TemplateWish } from '@dart-loop/core/channels/templates';
import { Words } from '../../../ui/Words';
import { Languages } from './Languages';
import { Group, PickRow, TextRow } from '../../../ui/rows';
import { ChosenFile } from '../../files/ChosenFile';
import { fileMerge, useFiles } from '../../files/useFiles';
import { MergedRow } from '../merging';
import type { FormProps } from './formProps';

const MEDIA = [
  ['none', 'none'],
  ['image', 'a picture'],
  ['file', 'a file'],
  ['video', 'a video'],
  ['audio', 'a recording'],
] as const;
const SHUT = [
  ['hold', 'held until they write'],
  ['template', 'sent as a template'],
  ['other line', 'said on another line'],
  ['drop', 'left out'],
] as const;

/**
 * What goes with a text, its other languages, and what becomes of it where the channel does not let the line
 * write.
 */
export function SayForm({ step, set, known }: FormProps<'say'>) {
  const { client } = useLocalSearchParams<{ client: string }>();
  const key = fileNamed(step.media?.address ?? '');
  const file = useFiles(client).files?.find((each) => each.key === key);
  const shut = step.whenShut?.do ?? 'hold';
  const templates = (known?.lines ?? []).flatMap((line) => line.templates ?? []);
  return (
    <>
      <Group title="Attachment">
        <ChosenFile
          client={client}
          address={step.media?.address}
          removes="Remove attachment"
          onChoose={(chosen) => set([['media'], chosen && { what: chosen.what, address: fileMerge(chosen) }])}
        />
      </Group>
      {!file && (
        <PickRow
          label="Or at an address of the web"
          value={step.media?.what ?? 'none'}
          options={MEDIA}
          onChange={(what) =>
            set([
              ['media'],
              what === 'none' ? undefined : { what, address: step.media?.address ?? 'https://' },
            ])
          }
        />
      )}
      {step.media && !file && (
        <TextRow
          label="Address"
          placeholder="https://example.org/timetable.png"
          value={step.media.address}
          onChange={(address) => set([['media', 'address'], address])}
        />
      )}
      <Group title="A link, as a button or card where the channel has one">
        <TextRow
          label="Button label"
          placeholder="See the timetable"
          value={step.link?.label ?? ''}
          onChange={(label) =>
            set([
              ['link'],
              label.trim() === ''
                ? undefined
                : { ...step.link, label, address: step.link?.address ?? 'https://' },
            ])
          }
        />
        {step.link && (
          <TextRow
            label="Link address"
            placeholder="https://example.org"
            value={step.link.address}
            onChange={(address) => set([['link', 'address'], address])}
          />
        )}
      </Group>
      <TextRow
        label="Show “typing” for (seconds)"
        placeholder="0"
        value={step.typing ? String(step.typing) : ''}
        read={(typed) =>
          /^(\d|1\d|20)?$/.test(typed.trim()) ? null : 'Seconds are a whole number up to 20.'
        }
        onChange={(typed) => set([['typing'], Number(typed) > 0 ? Number(typed) : undefined])}
      />
      <PickRow
        label="If the channel’s reply window has closed"
        value={shut}
        options={step.choices?.length ? SHUT.filter(([key]) => key !== 'other line') : SHUT}
        onChange={(what) =>
          set([
            ['whenShut'],
            what === 'hold'
              ? undefined
              : what === 'template'
                ? { do: what, name: templates[0]?.name ?? 'still_there' }
                : { do: what },
          ])
        }
      />
      {step.whenShut?.do === 'template' && (
        <Group title="Template">
          {templates.length > 0 ? (
            <PickRow
              label="Template"
              value={step.whenShut.name}
              options={[...new Set(templates.map(({ name }) => name))].map((name) => [name, name] as const)}
              onChange={(name) => set([['whenShut', 'name'], name])}
            />
          ) : (
            <TextRow
              label="Name"
              placeholder="still_there"
              value={step.whenShut.name}
              onChange={(name) => set([['whenShut', 'name'], name])}
            />
          )}
          <MergedRow
            label="Values to fill in, one per line"
            placeholder={'{{ person.first_name | default: "there" }}'}
            multiline
            value={(step.whenShut.parameters ?? []).join('\n')}
            onChange={(typed) => {
              const parameters = typed.split('\n').filter((each) => each.trim() !== '');
              set([['whenShut', 'parameters'], parameters.length > 0 ? parameters : undefined]);
            }}
          />
          {showsFile(templates, step.whenShut) && (
            <ChosenFile
              label="File above its text"
              client={client}
              address={step.whenShut.file}
              onChoose={(chosen) => set([['whenShut', 'file'], chosen && fileMerge(chosen)])}
            />
          )}
          <Words kind="small">{templateWords(templates, step.whenShut)}</Words>
        </Group>
      )}
      <Languages step={step} set={set} known={known} labels={step.choices ?? []} list="choices" />
    </>
  );
}

/** Whether a file stands above the template's text, or one was chosen for it. */
const showsFile = (templates: Template[], { name, file }: TemplateWish): boolean =>
  file !== undefined || templates.some((each) => each.name === name && each.header !== undefined);

function templateWords(templates: Template[], call: TemplateWish): string {
  if (templates.length === 0) return 'No line has templates yet; they come with a WhatsApp line.';
  const usable = usableForAnybody(templates, call);
  return typeof usable === 'string' ? `◇ ${usable}.` : `It reads: ${usable.body}`;
}
