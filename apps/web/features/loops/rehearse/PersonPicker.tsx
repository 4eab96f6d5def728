import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { LoopSurroundings, PeoplePage, PersonForRehearsal } from '@dart-loop/contract';
import type { Loop, PersonFacts } from '@dart-loop/core';
import { fieldsOf } from '@dart-loop/core/loops/check/fieldsOf';
import { stranger } from '@dart-loop/core/people/person';
import { invented } from '@dart-loop/core/engine/rehearsal/landing';
import { personOfTake } from '@dart-loop/core/loops/takes/takes';
import { Field } from '../../../ui/Field';
import { Dialog, Menu } from '../../../ui/Menu';
import { QuietButton } from '../../../ui/press';
import { Failure, Waiting } from '../../../ui/parts';
import { Words } from '../../../ui/Words';
import { get } from '../../session/api';

export interface Somebody {
  words: string;
  person: PersonFacts;
}

let count = 1;

/**
 * Whom the loop is rehearsed with: somebody new, somebody of whom all is known, or the facts of a real
 * person.
 */
export function PersonPicker({
  client,
  loop,
  known,
  now,
  words,
  onChoose,
}: {
  client: string;
  loop: Loop;
  known: LoopSurroundings;
  now: number;
  words: string;
  onChoose: (somebody: Somebody) => void;
}) {
  const [searching, setSearching] = useState(false);
  return (
    <>
      <Menu
        compact
        label={`Rehearsed as ${words}. Change`}
        title="Rehearse as"
        items={[
          {
            key: 'new',
            words: 'Somebody new',
            more: 'nothing is known of them; another one each time, who may draw another arm',
            onChoose: () => onChoose({ words: 'somebody new', person: stranger(`somebody-${++count}`) }),
          },
          {
            key: 'invented',
            words: 'Somebody invented',
            more: 'of whom everything is known that the loop asks for',
            onChoose: () =>
              onChoose({
                words: 'Robin Vale',
                person: invented(loop, { ...fieldsOf(loop), ...known.types }, known.client, now),
              }),
          },
          {
            key: 'real',
            words: 'A person from the list …',
            more: 'with their fields, tags and lists; nothing is sent to them',
            onChoose: () => setTimeout(() => setSearching(true), 50),
          },
        ]}
      >
        <Words kind="small" color="ink">
          {'as '}
          <Words kind="smallStrong">{`${words} ▾`}</Words>
        </Words>
      </Menu>
      <Dialog title="Rehearse as" open={searching} onClose={() => setSearching(false)}>
        {searching && (
          <People
            client={client}
            onChoose={(id, found) => {
              setSearching(false);
              const { name, ...facts } = found;
              onChoose({ words: name, person: personOfTake({ id, ...facts }) });
            }}
          />
        )}
      </Dialog>
    </>
  );
}

function People({
  client,
  onChoose,
}: {
  client: string;
  onChoose: (id: string, person: PersonForRehearsal) => void;
}) {
  const [query, setQuery] = useState('');
  const [problem, setProblem] = useState<Error | null>(null);
  const { data, error } = useSWR<PeoplePage, Error>(
    `/clients/${client}/people?q=${encodeURIComponent(query)}`,
  );
  return (
    <View style={{ padding: 12, gap: 8 }}>
      <Field
        label="Name, number or handle"
        placeholder="Mira"
        value={query}
        autoFocus
        onChangeText={setQuery}
      />
      {(error ?? problem) && <Failure error={(error ?? problem)!} />}
      {!data && !error && <Waiting />}
      {data?.rows.length === 0 && <Words color="quiet">No matches.</Words>}
      {data?.rows.slice(0, 20).map((row) => (
        <QuietButton
          key={row.id}
          title={row.facts.length > 0 ? `${row.name} · ${row.facts[0]}` : row.name}
          onPress={() =>
            void get<PersonForRehearsal>(`/clients/${client}/people/${row.id}/for-rehearsal`)
              .then((person) => onChoose(row.id, person))
              .catch((reason: Error) => setProblem(reason))
          }
        />
      ))}
    </View>
  );
}
