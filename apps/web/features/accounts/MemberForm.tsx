import { useState } from 'react';
import { View } from 'react-native';
import type { MadeLink, Member, TeamPage } from '@dart-loop/contract/accounts';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { Group } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { ReachFields } from './ReachFields';

/** What somebody may do is changed, they get a new password, or they are removed. */
export function MemberForm({
  team,
  member,
  isMe,
  onClose,
  onLink,
  onChanged,
}: {
  team: TeamPage;
  member: Member;
  isMe: boolean;
  onClose: () => void;
  onLink: (link: MadeLink) => void;
  onChanged: () => void;
}) {
  const [role, setRole] = useState(member.role);
  const [grants, setGrants] = useState(member.grants);
  const [clients, setClients] = useState(member.clients);
  const [removing, setRemoving] = useState(false);
  const { act, busy, problem } = useAct();
  const path = `/team/${member.id}`;
  const done = (work: () => Promise<unknown>) =>
    act(async () => {
      await work();
      onChanged();
    });
  return (
    <Dialog
      title={member.name}
      open
      onClose={onClose}
      foot={
        <>
          <Refused problem={problem} />
          {removing ? (
            <View style={{ gap: 8 }}>
              <Words>
                {`${member.name} is signed out everywhere at once. What they did stays in the audit, and they can be invited again.`}
              </Words>
              <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
                <ActionButton
                  title={`Remove ${member.name}`}
                  busy={busy}
                  onPress={() => void done(() => ask('DELETE', path))}
                />
                <QuietButton title="Cancel" onPress={() => setRemoving(false)} />
              </View>
            </View>
          ) : (
            <ActionButton
              title="Save"
              label={`Save ${member.name}`}
              busy={busy}
              disabled={clients !== 'all' && clients.length === 0}
              onPress={() => void done(() => ask('PUT', path, { role, grants, clients }))}
            />
          )}
        </>
      }
    >
      <View style={{ padding: 12, gap: 16 }}>
        <ReachFields
          {...{ team, role, grants, clients }}
          onRole={setRole}
          onGrants={setGrants}
          onClients={setClients}
        />
        {!isMe && !removing && (
          <Group title="Access">
            <View style={{ alignItems: 'flex-start', gap: 8 }}>
              <QuietButton
                outlined
                title="Create link for a new password"
                disabled={busy}
                onPress={() =>
                  void act(async () => onLink(await ask<MadeLink>('POST', `${path}/password`, {})))
                }
              />
              <QuietButton
                outlined
                tone="red"
                title={`Remove ${member.name}`}
                disabled={busy}
                onPress={() => setRemoving(true)}
              />
            </View>
          </Group>
        )}
      </View>
    </Dialog>
  );
}
