import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'yaml';
import { z } from 'zod';
import { PairBody, ROLES, SaveDestination, type DemoSignIn } from '@dart-loop/contract';
import { Calendar, ChannelKind, Duration, Menus, OpeningHours } from '@dart-loop/core';
import { ROOT } from '../places';
import { DemoPeople } from './people';

/** What stands in the files of the folder `demo`: the agency, its clients, what happens there in a week. */

const Says = z.union([
  z.string(),
  z.object({ tap: z.string() }),
  z.object({ comment: z.string(), on: z.string() }),
  z.object({ ad: z.string() }),
  z.object({ link: z.string() }),
  z.object({ later: z.string().regex(/^\d+h$/) }),
]);
const WorldFile = z.object({
  agency: z.string(),
  password: z.string(),
  accounts: z.array(
    z.object({
      role: z.enum(ROLES),
      name: z.string(),
      email: z.string(),
      words: z.string(),
      /** Their slugs; all clients where it is left out. */
      clients: z.array(z.string()).optional(),
    }),
  ),
  clients: z.array(
    z.object({
      slug: z.string(),
      name: z.string(),
      country: z.string(),
      timeZone: z.string(),
      brief: z.record(z.string(), z.string()),
      languages: z.array(z.string()).default(['en']),
      openingHours: OpeningHours.default({}),
      lines: z.array(
        z.discriminatedUnion('channel', [
          z.object({
            channel: z.enum(['messenger', 'instagram']),
            id: z.string(),
            name: z.string(),
            menus: Menus.optional(),
          }),
          z.object({ channel: z.literal('whatsapp'), id: z.string(), number: z.string() }),
          z.object({ channel: z.literal('telegram'), token: z.string() }),
          z.object({ channel: z.literal('sms'), number: z.string() }),
        ]),
      ),
      calendars: z.array(Calendar).default([]),
      loops: z.array(z.string()),
      /** Pictures of the client's, from drawings beside this file. */
      files: z.array(z.object({ name: z.string(), drawing: z.string() })).default([]),
      /** Answers that somebody of the agency wrote. */
      pairs: z.array(PairBody).default([]),
      people: DemoPeople.optional(),
      destinations: z.array(SaveDestination).default([]),
      /** An incoming webhook by which a destination tells of its changes. */
      wayBack: z.object({ hook: z.string(), of: z.string() }).optional(),
    }),
  ),
});
const Kinds = z.array(
  z.object({ client: z.string(), line: ChannelKind, times: z.number().int(), says: z.array(Says) }),
);
const Walls = z.array(
  z.object({
    channel: z.enum(['messenger', 'instagram', 'whatsapp']),
    account: z.string(),
    posts: z.array(z.object({ id: z.string(), ago: Duration, text: z.string() })),
    ads: z.array(z.object({ id: z.string(), text: z.string(), opening: z.string() })),
    templates: z
      .array(
        z.object({
          name: z.string(),
          language: z.string(),
          status: z.enum(['APPROVED', 'PENDING', 'REJECTED', 'PAUSED']),
          category: z.enum(['UTILITY', 'MARKETING', 'AUTHENTICATION']),
          body: z.string(),
          buttons: z.array(z.string()).default([]),
        }),
      )
      .default([]),
  }),
);
const Names = z.object({ first: z.array(z.string()), last: z.array(z.string()) });

export type World = z.infer<typeof WorldFile>;
export type WorldLine = World['clients'][number]['lines'][number];
/** What somebody says or does in a written conversation. */
export type Says = z.infer<typeof Says>;

/** A file of the demo as text. */
export const DEMO = join(ROOT, 'demo');
export const read = (file: string) => readFileSync(join(DEMO, file), 'utf8');

/** The accounts that everybody may look around with. */
export function demoSignIns(): DemoSignIn[] {
  const { accounts, password } = readWorld();
  return accounts.map(({ role, name, email, words }) => ({ role, name, email, words, password }));
}

export const readWorld = (): World => WorldFile.parse(parse(read('clients.yaml')));
export const readWalls = () => Walls.parse(parse(read('walls.yaml')));
export const readKinds = () => Kinds.parse(parse(read('conversations.yaml')));
export const readNames = () => Names.parse(parse(read('people.yaml')));
