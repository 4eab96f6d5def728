import { View } from 'react-native';
import type { Reach, TeamPage } from '@dart-loop/contract/accounts';
import { GRANT_KEYS, ROLES, type Grant, type Role } from '@dart-loop/contract/roles';
import { PickRow, TickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { GRANT_WORDS, ROLE_WORDS } from './roleWords';

/** What somebody may do, and for which clients. */
export function ReachFields({
  team,
  role,
  grants,
  clients,
  onRole,
  onGrants,
  onClients,
}: {
  team: TeamPage;
  role: Role;
  grants: readonly Grant[];
  clients: Reach;
  onRole: (next: Role) => void;
  onGrants: (next: Grant[]) => void;
  onClients: (next: Reach) => void;
}) {
  return (
    <>
      <View style={{ gap: 4 }}>
        <PickRow
          label="Role"
          value={role}
          options={ROLES.map((each) => [each, ROLE_WORDS[each].name] as const)}
          onChange={onRole}
        />
        <Words kind="small">{`May do: ${ROLE_WORDS[role].may}.`}</Words>
      </View>
      {role === 'operator' && (
        <View role="group" aria-label="May also">
          {GRANT_KEYS.map((grant) => (
            <TickRow
              key={grant}
              label={GRANT_WORDS[grant]}
              on={grants.includes(grant)}
              onChange={(on) => onGrants(on ? [...grants, grant] : grants.filter((each) => each !== grant))}
            />
          ))}
        </View>
      )}
      <PickRow
        label="Clients"
        value={clients === 'all' ? 'all' : 'chosen'}
        options={[
          ['all', 'All clients'],
          ['chosen', 'Chosen clients'],
        ]}
        onChange={(which) => onClients(which === 'all' ? 'all' : [])}
      />
      {clients !== 'all' && (
        <View role="group" aria-label="Chosen clients">
          {team.clients.map(({ id, name }) => (
            <TickRow
              key={id}
              label={name}
              on={clients.includes(id)}
              onChange={(on) => onClients(on ? [...clients, id] : clients.filter((each) => each !== id))}
            />
          ))}
        </View>
      )}
    </>
  );
}
