import { useEffect, useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { LineRow, MenusPage } from '@dart-loop/contract';
import type { MenuItem, MenuKind, Menus } from '@dart-loop/core';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { MENU_KINDS, menuKindsOf, menuProblems } from '@dart-loop/core/channels/menus';
import { slug } from '@dart-loop/core/language/slug';
import { Field } from '../../ui/Field';
import { ActionButton, QuietButton } from '../../ui/press';
import { Failure, Notice, Waiting } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { sameJson } from '@dart-loop/core/sameJson';

/**
 * What can be tapped on a line without a message before it; put on the channel, and compared with what it
 * has.
 */
export function MenusForm({ line, path }: { line: LineRow; path: string }) {
  const address = `${path}/${line.id}/menus`;
  const { data, error, mutate } = useSWR<MenusPage, Error>(address, { revalidateOnFocus: false });
  const [drafts, setDrafts] = useState<Menus | null>(null);
  const { act, busy, problem } = useAct();
  const { name, menus: limits } = CHANNELS[line.channel];
  useEffect(() => {
    if (data && drafts === null) setDrafts(data.wanted);
  }, [data, drafts]);
  if (error && !data) return <Failure error={error} again={() => void mutate()} />;
  if (!data || !drafts) return <Waiting words="Asking the channel" />;
  const complete = completed(drafts);
  const problems = menuProblems(name, limits, complete);
  const put = () =>
    act(async () => {
      await mutate(await ask<MenusPage>('PUT', address, complete), { revalidate: false });
      setDrafts(complete);
    });
  const dirty = !sameJson(complete, completed(data.wanted));
  return (
    <View style={{ padding: 12, gap: 12 }}>
      <Comparison page={data} name={name} dirty={dirty} />
      {limits.greeting !== undefined && (
        <Field
          label="Greeting"
          placeholder="such as Welcome aboard. Ask us anything about the ferries."
          value={drafts.greeting ?? ''}
          onChangeText={(greeting) => setDrafts({ ...drafts, greeting })}
          maxLength={limits.greeting}
          multiline
          hint={`Shown before the first message, at most ${limits.greeting} characters.`}
        />
      )}
      {menuKindsOf(limits).map((kind) => (
        <Items
          key={kind}
          kind={kind}
          most={limits[kind]!.most}
          items={drafts[kind] ?? []}
          heard={data.heard}
          onChange={(items) => setDrafts({ ...drafts, [kind]: items })}
        />
      ))}
      {[...problems, ...(problem ? [problem] : [])].map((words) => (
        <Notice key={words} tone="failing">
          {words}
        </Notice>
      ))}
      <View style={{ flexDirection: 'row' }}>
        <ActionButton
          title={busy ? 'Asking the channel …' : `Save to ${name}`}
          busy={busy}
          disabled={problems.length > 0 || (!dirty && data.differences.length === 0)}
          onPress={() => void put()}
        />
      </View>
    </View>
  );
}

/** As it is kept: without what was left empty, every item with its name. */
function completed({ greeting = '', ...lists }: Menus): Menus {
  const full = Object.fromEntries(
    MENU_KINDS.map((kind) => [
      kind,
      (lists[kind] ?? []).filter(({ label }) => label.trim() !== '').map((each) => withKey(each)),
    ]).filter(([, items]) => items!.length > 0),
  ) as Menus;
  return greeting.trim() === '' ? full : { ...full, greeting: greeting.trim() };
}

/** An item that was not named is called after its label, as a loop’s cue would be. */
const withKey = ({ item, label }: MenuItem): MenuItem => ({
  item: item || slug(label, '_').slice(0, 32) || 'item',
  label: label.trim(),
});

function Comparison({ page, name, dirty }: { page: MenusPage; name: string; dirty: boolean }) {
  if (page.problem) return <Notice tone="failing">{page.problem}</Notice>;
  if (page.differences.length > 0)
    return (
      <Notice tone="warning">
        <>
          {page.differences.map((words) => (
            <Words key={words} kind="small" color="ink">
              {words}
            </Words>
          ))}
        </>
      </Notice>
    );
  const empty = Object.values(page.wanted).every((each) => each.length === 0);
  return (
    <Words kind="small">
      {dirty
        ? `Not yet on ${name}.`
        : empty
          ? `Nothing is saved to ${name} yet.`
          : `${name} has exactly this.`}
    </Words>
  );
}

const TITLES: Record<MenuKind, string> = {
  'standing menu': 'Standing menu',
  'opening suggestions': 'Opening suggestions',
  commands: 'Commands',
};

function Items({
  kind,
  most,
  items,
  heard,
  onChange,
}: {
  kind: MenuKind;
  most: number;
  items: MenuItem[];
  heard: MenusPage['heard'];
  onChange: (items: MenuItem[]) => void;
}) {
  const change = (at: number, more: Partial<MenuItem>) =>
    onChange(items.map((each, index) => (index === at ? { ...each, ...more } : each)));
  const free = heard.filter(({ item }) => !items.some((each) => each.item === item));
  return (
    <View style={{ gap: 8 }} role="group" aria-label={TITLES[kind]}>
      <Words kind="smallStrong">{`${TITLES[kind]}, ${items.length} of at most ${most}`}</Words>
      {items.map((each, at) => {
        const { item } = withKey(each);
        const loop = heard.find((other) => other.item === item)?.loop;
        return (
          <View key={at} style={{ flexDirection: 'row', gap: 8, alignItems: 'flex-start' }}>
            <View style={{ flex: 1 }}>
              <Field
                label={`Text ${at + 1}`}
                hideLabel
                placeholder="such as What is on this week"
                value={each.label}
                onChangeText={(label) => change(at, { label })}
                hint={
                  loop
                    ? `“${item}”, heard by ${loop}`
                    : each.label
                      ? `“${item}”: no live loop hears it yet`
                      : undefined
                }
              />
            </View>
            <QuietButton
              title="Remove"
              label={`Remove item ${at + 1} of the ${kind}`}
              onPress={() => onChange(items.filter((_, index) => index !== at))}
            />
          </View>
        );
      })}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        {items.length < most &&
          free.map(({ item, loop }) => (
            <QuietButton
              key={item}
              outlined
              title={`Add “${item}”`}
              hint={`Starts the loop ${loop}`}
              onPress={() => onChange([...items, { item, label: loop }])}
            />
          ))}
        {items.length < most && (
          <QuietButton
            outlined
            title="Add entry"
            label={`Add entry to the ${kind}`}
            onPress={() => onChange([...items, { item: '', label: '' }])}
          />
        )}
      </View>
    </View>
  );
}
