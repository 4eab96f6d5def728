import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { Invitation, MadeLink, Member, TeamPage } from '@dart-loop/contract/accounts';
import { Avatar } from '../../ui/Avatar';
import { counted } from '@dart-loop/core/language/counted';
import { Page } from '../../ui/Page';
import { Failure, Refused, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { momentWords, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useSession } from '../session/useSession';
import { HandOver } from './HandOver';
import { InviteForm } from './InviteForm';
import { MemberForm } from './MemberForm';
import { roleWords } from './roleWords';

/** The people of the agency: who may do what for which clients, and who is invited. */
export function Team() {
  const { data, error, mutate } = useSWR<TeamPage, Error>('/team');
  const me = useSession().data?.account.id;
  const [inviting, setInviting] = useState(false);
  const [changing, setChanging] = useState<Member | null>(null);
  const [link, setLink] = useState<{ for: string; made: MadeLink } | null>(null);
  const { act, busy, problem } = useAct(mutate);
  const withdraw = ({ id }: Invitation) => act(() => ask('DELETE', `/team/invitations/${id}`));
  return (
    <Page
      title="Team"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="The people of the agency and of its clients: what each may do, and for which clients"
      width="wide"
      actions={<ActionButton title="Invite" onPress={() => setInviting(true)} />}
    >
      <Refused problem={problem} />
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {link && <HandOver {...link} onClose={() => setLink(null)} />}
      <View role="list" aria-label="Team">
        {data?.members.map((member) => (
          <Row
            key={member.id}
            name={member.id === me ? `${member.name} (you)` : member.name}
            email={member.email}
            role={roleWords(member.role, member.grants)}
            clients={reachWords(member.clients, data)}
            more={[
              member.lastSignIn ? `signed in ${whenWords(member.lastSignIn)}` : 'not signed in now',
              ...(member.factor ? ['second factor on'] : []),
            ].join(', ')}
          >
            <QuietButton title="Change" label={`Change ${member.name}`} onPress={() => setChanging(member)} />
          </Row>
        ))}
      </View>
      {data && data.invitations.length > 0 && (
        <View style={{ marginTop: 24, gap: 8 }}>
          <Words kind="heading">Invited</Words>
          <View role="list" aria-label="Invited">
            {data.invitations.map((invitation) => (
              <Row
                key={invitation.id}
                name={invitation.email}
                email={invitation.by ? `invited by ${invitation.by}` : 'invited from the shell'}
                role={roleWords(invitation.role, invitation.grants)}
                clients={reachWords(invitation.clients, data)}
                more={`until ${momentWords(invitation.expiresAt)}`}
              >
                <QuietButton
                  title="Withdraw"
                  label={`Withdraw the invitation of ${invitation.email}`}
                  tone="red"
                  disabled={busy}
                  onPress={() => void withdraw(invitation)}
                />
              </Row>
            ))}
          </View>
        </View>
      )}
      {data && inviting && (
        <InviteForm
          team={data}
          onClose={() => setInviting(false)}
          onMade={(email, made) => {
            setInviting(false);
            setLink({ for: email, made });
            void mutate();
          }}
        />
      )}
      {data && changing && (
        <MemberForm
          team={data}
          member={changing}
          isMe={changing.id === me}
          onClose={() => setChanging(null)}
          onLink={(made) => {
            setChanging(null);
            setLink({ for: changing.name, made });
          }}
          onChanged={() => {
            setChanging(null);
            void mutate();
          }}
        />
      )}
    </Page>
  );
}

/** Which clients somebody may see, in words. */
function reachWords(clients: Member['clients'], team: TeamPage): string {
  if (clients === 'all') return 'all clients';
  const names = team.clients.filter(({ id }) => clients.includes(id)).map(({ name }) => name);
  if (names.length <= 2) return names.join(', ') || 'no clients';
  return counted(names.length, 'client');
}

function Row({
  name,
  email,
  role,
  clients,
  more,
  children,
}: {
  name: string;
  email: string;
  role: string;
  clients: string;
  more: string;
  children: React.ReactNode;
}) {
  const { colors, wide } = useTheme();
  return (
    <View
      role="listitem"
      style={{
        flexDirection: 'row',
        alignItems: 'center',
        gap: 12,
        borderTopWidth: 1,
        borderColor: colors.line,
        paddingVertical: 12,
      }}
    >
      <Avatar name={name} />
      <View style={{ flex: 1, minWidth: 0, flexDirection: wide ? 'row' : 'column', columnGap: 16 }}>
        <View style={{ flex: wide ? 2 : undefined, minWidth: 0 }}>
          <Words kind="strong">{name}</Words>
          <Words kind="small" numberOfLines={1}>
            {email}
          </Words>
        </View>
        <View style={{ flex: wide ? 2 : undefined, minWidth: 0 }}>
          <Words color="ink" kind="small">
            {`${role}, ${clients}`}
          </Words>
          <Words kind="small">{more}</Words>
        </View>
      </View>
      {children}
    </View>
  );
}
