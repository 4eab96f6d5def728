import { View } from 'react-native';
import { Invite, type MadeLink, type Reach, type TeamPage } from '@dart-loop/contract/accounts';
import type { Grant, Role } from '@dart-loop/contract/roles';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';
import { ReachFields } from './ReachFields';

/** Somebody is invited: by mail where the server can send it, by a link to hand over in any case. */
export function InviteForm({
  team,
  onClose,
  onMade,
}: {
  team: TeamPage;
  onClose: () => void;
  onMade: (email: string, link: MadeLink) => void;
}) {
  const form = useSentForm(
    Invite,
    { email: '', role: 'builder' as Role, grants: [] as Grant[], clients: 'all' as Reach },
    async (values) => onMade(values.email, await ask<MadeLink>('POST', '/team/invitations', values)),
  );
  const reach = form.form.watch();
  const noneChosen = reach.clients !== 'all' && reach.clients.length === 0;
  return (
    <Dialog
      title="Invite somebody"
      open
      onClose={onClose}
      foot={
        <>
          <Refused problem={form.failure?.message} />
          <ActionButton
            title={team.mails ? 'Send invitation' : 'Create invitation link'}
            busy={form.busy}
            disabled={noneChosen}
            onPress={form.submit}
          />
        </>
      }
    >
      <View style={{ padding: 12, gap: 16 }}>
        <FormField
          of={form}
          name="email"
          label="Email"
          inputMode="email"
          autoCapitalize="none"
          autoComplete="off"
          autoFocus
        />
        <ReachFields
          team={team}
          role={reach.role}
          grants={reach.grants ?? []}
          onGrants={(grants) => form.form.setValue('grants', grants)}
          clients={reach.clients}
          onRole={(role) => form.form.setValue('role', role)}
          onClients={(clients) => form.form.setValue('clients', clients)}
        />
      </View>
    </Dialog>
  );
}
