import { z } from 'zod';

/** Lists of things that can be tapped without a message before them, as the channels call them. */
export const MENU_KINDS = ['standing menu', 'opening suggestions', 'commands'] as const;
export type MenuKind = (typeof MENU_KINDS)[number];

/** What a menu tap brings, as the cue of a loop hears it. */
export const MenuItemKey = z
  .string()
  .regex(/^[a-z0-9_-]{1,32}$/, 'a menu item has 1 to 32 small letters, digits, underscores or hyphens');
export const MenuItem = z.object({
  item: MenuItemKey,
  label: z.string().trim().min(1, 'say what stands in the menu').max(256),
});
export type MenuItem = z.infer<typeof MenuItem>;
const MenuItems = z.array(MenuItem).max(100).optional();
export const Menus = z.object({
  'standing menu': MenuItems,
  'opening suggestions': MenuItems,
  commands: MenuItems,
  /** What stands before the first message, where the channel shows such; left out or empty: nothing. */
  greeting: z.string().trim().max(1_000).optional(),
});
export type Menus = z.infer<typeof Menus>;

/**
 * How many items a channel's menu has at most, and how long their labels and its greeting (UTF-16 units) are.
 */
export type MenuLimits = Partial<Record<MenuKind, { most: number; label: number; item?: RegExp }>> & {
  greeting?: number;
};

/** The kinds of menus that a channel has. */
export const menuKindsOf = (limits: MenuLimits): MenuKind[] => MENU_KINDS.filter((kind) => limits[kind]);

/** Why menus cannot be put on a channel: a sentence for each thing that is beyond what it takes. */
export function menuProblems(name: string, limits: MenuLimits, menus: Menus): string[] {
  const lists = MENU_KINDS.flatMap((kind) => {
    const items = menus[kind] ?? [];
    const limit = limits[kind];
    if (!limit) return items.length > 0 ? [`${name} has no ${kind}.`] : [];
    const twice = items.find((each, at) => items.findIndex((other) => other.item === each.item) < at);
    return [
      ...(items.length > limit.most
        ? [`The ${kind} on ${name} takes at most ${limit.most} items; there are ${items.length}.`]
        : []),
      ...items
        .filter((each) => each.label.length > limit.label)
        .map(
          (each) =>
            `“${each.label}” has ${each.label.length} characters; the ${kind} on ${name} takes at most ${limit.label}.`,
        ),
      ...items
        .filter((each) => limit.item && !limit.item.test(each.item))
        .map(
          (each) =>
            `“${each.item}” cannot be one of the ${kind} on ${name}: only small letters, digits and underscores are taken.`,
        ),
      ...(twice ? [`“${twice.item}” stands twice in the ${kind}.`] : []),
    ];
  });
  const length = menus.greeting?.length ?? 0;
  if (length === 0) return lists;
  if (limits.greeting === undefined) return [...lists, `${name} has no greeting.`];
  return length <= limits.greeting
    ? lists
    : [...lists, `The greeting has ${length} characters; ${name} takes at most ${limits.greeting}.`];
}

/**
 * How what a channel has differs from what is wanted: a sentence for each difference, none when they are the
 * same.
 */
export function menuDifferences(wanted: Menus, there: Menus): string[] {
  const lists = MENU_KINDS.flatMap((kind) => {
    const ours = wanted[kind] ?? [];
    const theirs = there[kind] ?? [];
    const missing = ours.filter((each) => !theirs.some((other) => other.item === each.item));
    const extra = theirs.filter((each) => !ours.some((other) => other.item === each.item));
    const reworded = ours.flatMap((each) => {
      const other = theirs.find(({ item }) => item === each.item);
      return other && other.label !== each.label
        ? [`The ${kind} there says “${other.label}” and not “${each.label}”.`]
        : [];
    });
    const order = (items: MenuItem[]) => items.map((each) => each.item).join(' ');
    return [
      ...missing.map((each) => `The ${kind} there lacks “${each.label}”.`),
      ...extra.map((each) => `The ${kind} there has “${each.label}”, which is not wanted here.`),
      ...reworded,
      ...(missing.length + extra.length === 0 && order(ours) !== order(theirs)
        ? [`The ${kind} there is in another order.`]
        : []),
    ];
  });
  const [ours = '', theirs = ''] = [wanted.greeting, there.greeting];
  if (ours === theirs) return lists;
  return [
    ...lists,
    theirs === ''
      ? 'There is no greeting there.'
      : ours === ''
        ? `There is a greeting there, “${theirs}”, which is not wanted here.`
        : `The greeting there says “${theirs}” and not “${ours}”.`,
  ];
}
