import { durationWords } from '@dart-loop/core/loops/model/basics';
import { readDuration } from '@dart-loop/core/loops/edit/typedTime';
import { fieldKey } from '@dart-loop/core/language/slug';
import { destinationNamed } from '@dart-loop/core/sync/named';
import { Words } from '../../../ui/Words';
import { TargetMenu } from '../TargetMenu';
import { Group, PickRow, TextRow, TickRow } from '../../../ui/rows';
import { MergedRow } from '../merging';
import { OptionalExit } from './OptionalExit';
import { without, type FormProps } from './formProps';

/** To a scene, or to another loop of the client. */
export function GoForm({ step, set, scenes, known }: FormProps<'go'>) {
  const others = known?.others ?? [];
  const other = others.find((each) => each.name === step.loop);
  return (
    <>
      <PickRow
        label="Goes to"
        value={step.loop === undefined ? 'scene' : 'loop'}
        options={
          [
            ['scene', 'a scene of this loop'],
            ['loop', 'another loop'],
          ] as const
        }
        onChange={(what) =>
          what === 'scene'
            ? set([['to'], 'next'], [['loop'], undefined], [['scene'], undefined], [['back'], undefined])
            : set([['loop'], others[0]?.name ?? 'Another loop'], ...without('to', 'each'))
        }
      />
      {step.to !== undefined && <GoToScene step={step} to={step.to} set={set} scenes={scenes} />}
      {step.loop !== undefined && (
        <>
          {others.length > 0 ? (
            <PickRow
              label="Loop"
              value={step.loop}
              options={others.map(({ name }) => [name, name] as const)}
              onChange={(loop) => set([['loop'], loop], [['scene'], undefined])}
            />
          ) : (
            <Words kind="small">The client has no other loop yet.</Words>
          )}
          {other && (
            <PickRow
              label="Start at scene"
              value={step.scene ?? ''}
              options={[['', 'its first'], ...other.scenes.map(({ id, name }) => [id, name] as const)]}
              onChange={(scene) => set([['scene'], scene === '' ? undefined : scene])}
            />
          )}
          <TickRow
            label="Return here when it has finished"
            on={step.back === true}
            onChange={(on) => set([['back'], on ? true : undefined])}
          />
        </>
      )}
    </>
  );
}

/** A scene of this loop, with the way back, and for each of what. */
function GoToScene({
  step,
  to,
  set,
  scenes,
}: Pick<FormProps<'go'>, 'step' | 'set' | 'scenes'> & { to: string }) {
  const comesBack = to !== 'next' && to !== 'end';
  return (
    <>
      <TargetMenu
        scenes={scenes}
        to={to}
        of="go"
        onChoose={(next) =>
          set([['to'], next], ...(next === 'next' || next === 'end' ? without('back', 'each') : []))
        }
      />
      {comesBack && (
        <TickRow
          label="Return here after the last step of the scene"
          on={step.back === true}
          onChange={(on) => set([['back'], on ? true : undefined], ...(on ? [] : without('each')))}
        />
      )}
      {step.back && (
        <TextRow
          label="Repeat the scene for each item of the field"
          placeholder="dogs"
          hint="For each option of a list, or from 1 to a number. The texts of the scene can merge the item."
          value={step.each?.field ?? ''}
          onChange={(field) =>
            set([['each'], field.trim() === '' ? undefined : { ...step.each, field: fieldKey(field) }])
          }
        />
      )}
      {step.each && (
        <TextRow
          label="At most this many times"
          placeholder="10"
          value={step.each.most === undefined ? '' : String(step.each.most)}
          read={(typed) =>
            typed.trim() === '' || /^\d{1,2}$/.test(typed.trim()) ? null : 'A whole number from 1 to 20.'
          }
          onChange={(typed) => set([['each', 'most'], typed.trim() === '' ? undefined : Number(typed)])}
        />
      )}
    </>
  );
}

/** To whom, with what to say now and when nobody is there. */
export function HandOverForm({ step, set, scenes }: FormProps<'hand over'>) {
  return (
    <>
      <TextRow
        label="Hand over to"
        placeholder="whoever is there"
        value={step.to ?? ''}
        onChange={(to) => set([['to'], to.trim() === '' ? undefined : to])}
      />
      <MergedRow
        label="Note for the colleague"
        placeholder="wants a table for {{ person.party_size }}"
        value={step.note ?? ''}
        onChange={(note) => set([['note'], note.trim() === '' ? undefined : note])}
      />
      <MergedRow
        label="Message to the person"
        placeholder="One of us writes to you in a moment."
        multiline
        value={step.text ?? ''}
        onChange={(text) => set([['text'], text.trim() === '' ? undefined : text])}
      />
      <Group title="Outside opening hours">
        <MergedRow
          label="Message instead"
          placeholder="We are back at {{ brief.hours }}."
          multiline
          value={step.offDuty?.text ?? ''}
          onChange={(text) => set([['offDuty'], text.trim() === '' ? undefined : { ...step.offDuty, text }])}
        />
        {step.offDuty && (
          <TickRow
            label="The loop continues without waiting"
            on={step.offDuty.to !== undefined}
            onChange={(on) => set([['offDuty', 'to'], on ? 'next' : undefined])}
          />
        )}
        {step.offDuty?.to !== undefined && (
          <TargetMenu
            scenes={scenes}
            to={step.offDuty.to}
            of="Nobody on duty"
            onChoose={(to) => set([['offDuty', 'to'], to])}
          />
        )}
      </Group>
      <Group title="If nobody answers">
        <TextRow
          label="If nobody answers, the loop continues after"
          placeholder="1 d"
          value={step.giveUp ? durationWords(step.giveUp.after) : ''}
          read={(typed) =>
            typed.trim() === '' || readDuration(typed)
              ? null
              : 'A time is a number and a unit, such as “30 min”.'
          }
          onChange={(typed) => {
            const after = readDuration(typed);
            set([['giveUp'], after ? { after, to: step.giveUp?.to ?? 'next' } : undefined]);
          }}
        />
        {step.giveUp && (
          <TargetMenu
            scenes={scenes}
            to={step.giveUp.to}
            of="Nobody stepped in"
            onChoose={(to) => set([['giveUp', 'to'], to])}
          />
        )}
      </Group>
    </>
  );
}

const EXAMPLES = { email: 'desk@example.org', sms: '+44 7700 900123', telegram: '63009' } as const;

/** Who of the staff is told what. */
export function AlertForm({ step, set }: FormProps<'alert'>) {
  return (
    <>
      <PickRow
        label="By"
        value={step.by}
        options={
          [
            ['email', 'email'],
            ['sms', 'SMS'],
            ['telegram', 'Telegram'],
          ] as const
        }
        onChange={(by) =>
          set([['by'], by], [['to'], []], [['subject'], by === 'email' ? step.subject : undefined])
        }
      />
      <TextRow
        label="To, comma-separated"
        placeholder={EXAMPLES[step.by]}
        value={step.to.join(', ')}
        onChange={(typed) =>
          set([
            ['to'],
            typed
              .split(',')
              .map((each) => each.trim())
              .filter(Boolean),
          ])
        }
      />
      {step.by === 'email' && (
        <MergedRow
          label="Subject"
          placeholder="New lead"
          value={step.subject ?? ''}
          onChange={(subject) => set([['subject'], subject.trim() === '' ? undefined : subject])}
        />
      )}
      <MergedRow label="Text" multiline value={step.text} onChange={(text) => set([['text'], text])} />
    </>
  );
}

/**
 * To a destination of the client's, or to an address of its own: what goes out, and what of the answer is
 * kept.
 */
export function SendOutForm({ step, set, scenes, known }: FormProps<'send out'>) {
  const destinations = known?.destinations ?? [];
  const chosen = step.destination === undefined ? null : destinationNamed(destinations, step.destination);
  return (
    <>
      {(destinations.length > 0 || step.destination !== undefined) && (
        <PickRow
          label="Goes to"
          value={step.destination === undefined ? 'address' : 'destination'}
          options={
            [
              ['destination', 'a destination of the client’s'],
              ['address', 'an address of its own'],
            ] as const
          }
          onChange={(what) =>
            what === 'destination'
              ? set(
                  [['destination'], destinations[0]?.name ?? 'A destination'],
                  [['address'], undefined],
                  [['body'], undefined],
                  [['reply'], undefined],
                  [['failed'], undefined],
                )
              : set([['destination'], undefined], [['address'], 'https://example.org/hook'])
          }
        />
      )}
      {step.destination !== undefined && destinations.length > 0 && (
        <PickRow
          label="Destination"
          value={chosen?.name ?? step.destination}
          options={destinations.map(({ name }) => [name, name] as const)}
          onChange={(name) => set([['destination'], name])}
        />
      )}
      {step.destination !== undefined && (
        <Words kind="small">
          The person is sent to the destination as its columns say. The loop continues at once.
        </Words>
      )}
      {step.address !== undefined && <WebhookForm step={step} set={set} scenes={scenes} />}
    </>
  );
}

/** A webhook of the step's own: where to, what goes out, and what of the answer is kept. */
function WebhookForm({ step, set, scenes }: Omit<FormProps<'send out'>, 'known'>) {
  return (
    <>
      <TextRow
        label="Address"
        placeholder="https://example.org/hook"
        value={step.address ?? ''}
        onChange={(address) => set([['address'], address])}
      />
      <TextRow
        label="Body, as JSON with merge fields"
        multiline
        value={JSON.stringify(step.body ?? {}, null, 2)}
        read={(typed) => {
          try {
            JSON.parse(typed);
            return null;
          } catch {
            return 'This is not JSON yet: write { "email": "{{ person.email }}" }.';
          }
        }}
        onChange={(typed) => set([['body'], JSON.parse(typed)])}
      />
      <TextRow
        label="Save parts of the answer in fields, one per line"
        placeholder="customer.id -> customer_number"
        multiline
        value={(step.reply ?? []).map(({ from, field }) => `${from} -> ${field}`).join('\n')}
        read={(typed) =>
          typed
            .split('\n')
            .every((line) => line.trim() === '' || /^\s*[\w.-]+\s*->\s*[a-z][a-z0-9_]*\s*$/.test(line))
            ? null
            : 'Each line is a path, an arrow and a field, such as “customer.id -> customer_number”.'
        }
        onChange={(typed) => {
          const reply = typed
            .split('\n')
            .filter((line) => line.trim() !== '')
            .map((line) => {
              const [from, field] = line.split('->').map((part) => part.trim());
              return { from, field };
            });
          set([['reply'], reply.length > 0 ? reply : undefined]);
        }}
      />
      <OptionalExit
        label="Separate exit for a failed delivery"
        of="Not delivered"
        to={step.failed}
        scenes={scenes}
        onChange={(to) => set([['failed'], to])}
      />
    </>
  );
}
