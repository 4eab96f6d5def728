import { z } from 'zod';
import { MenuItemKey } from '../../channels/menus';
import { cueParts } from './cue';

/** A tap in the standing menu, an opening suggestion, or a command such as /hours (the item is "hours"). */
export const MenuTapCue = z
  .object({
    ...cueParts,
    kind: z.literal('menu tap'),
    item: MenuItemKey,
  })
  .strict();
export type MenuTapCue = z.infer<typeof MenuTapCue>;
export const menuTapWords = (cue: MenuTapCue) => `a tap on “${cue.item}” in the menu`;
