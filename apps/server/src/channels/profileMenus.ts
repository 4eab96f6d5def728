import { z } from 'zod';
import type { Menus } from '@dart-loop/core';
import type { Failure, OpenLine } from './adapter';
import { graphProblem, graphRefusal, readAnswer, type GraphCall } from './graph';

/** The profile of a page or account, where its greeting, standing menu and opening suggestions live. */

const Action = z.looseObject({
  title: z.string().optional(),
  question: z.string().optional(),
  payload: z.string().optional(),
});
const Greeting = z.array(z.looseObject({ text: z.string().optional() })).optional();
const List = z.array(z.looseObject({ call_to_actions: z.array(Action).optional() })).optional();
const Profile = z.object({
  data: z.array(z.looseObject({ persistent_menu: List, ice_breakers: List, greeting: Greeting })),
});

const PAYLOAD = /^menu:([a-z0-9_-]{1,32})$/;
const path = (line: OpenLine) =>
  `/me/messenger_profile${line.channel === 'instagram' ? '?platform=instagram' : ''}`;

export async function putProfileMenus(
  call: GraphCall,
  platform: string,
  menus: Menus,
  line: OpenLine,
): Promise<Failure | null> {
  const standing = menus['standing menu'] ?? [];
  const openings = menus['opening suggestions'] ?? [];
  const payload = (item: string) => `menu:${item}`;
  const put = graphProblem(
    platform,
    await call(path(line), line.secrets.token!, {
      ...(menus.greeting && { greeting: [{ locale: 'default', text: menus.greeting }] }),
      // A menu needs the button that opens a conversation.
      ...(line.channel === 'messenger' && { get_started: { payload: payload('start') } }),
      persistent_menu: [
        {
          locale: 'default',
          composer_input_disabled: false,
          call_to_actions: standing.map(({ item, label }) => ({
            type: 'postback',
            title: label,
            payload: payload(item),
          })),
        },
      ],
      ice_breakers: [
        {
          locale: 'default',
          call_to_actions: openings.map(({ item, label }) => ({ question: label, payload: payload(item) })),
        },
      ],
    }),
  );
  if (put || menus.greeting || line.channel !== 'messenger') return put;
  // What was put there stays until it is taken away.
  const fields = { fields: ['greeting'] };
  return graphProblem(platform, await call(path(line), line.secrets.token!, fields, 'DELETE'));
}

export async function lookAtProfileMenus(
  call: GraphCall,
  platform: string,
  line: OpenLine,
): Promise<{ menus: Menus } | { failure: Failure }> {
  const answer = await call(
    `/me/messenger_profile?fields=persistent_menu,ice_breakers${line.channel === 'instagram' ? '&platform=instagram' : ',greeting'}`,
    line.secrets.token!,
  );
  const read = readAnswer(answer, Profile);
  if (!read) return { failure: graphRefusal(platform, answer).failure };
  const items = (key: 'persistent_menu' | 'ice_breakers') =>
    read.data
      .flatMap((each) => each[key] ?? [])
      .flatMap((each) => each.call_to_actions ?? [])
      // What another program has put there shows as itself, so that it is seen to differ.
      .map(({ title, question, payload = '' }) => ({
        item: PAYLOAD.exec(payload)?.[1] ?? payload,
        label: title ?? question ?? '',
      }));
  const greeting = read.data.flatMap((each) => each.greeting ?? [])[0]?.text;
  return {
    menus: {
      'standing menu': items('persistent_menu'),
      'opening suggestions': items('ice_breakers'),
      ...(greeting && { greeting }),
    },
  };
}
