import { z } from 'zod';
import { cueParts } from './cue';

/** A tap in the standing menu, an opening suggestion, or a command such as /hours (the item is "hours"). */
export const MenuTapCue = z
  .object({
    ...cueParts,
    kind: z.literal('menu tap'),
    item: z.string().regex(/^[a-z0-9_-]{1,32}$/, 'a menu item has 1 to 32 small letters, digits, underscores or hyphens'),
  })
  .strict();
export type MenuTapCue = z.infer<typeof MenuTapCue>;
export const menuTapWords = (cue: MenuTapCue) => `a tap on “${cue.item}” in the menu`;
