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
export const Menus = z.partialRecord(z.enum(MENU_KINDS), z.array(MenuItem).max(100));
export type Menus = z.infer<typeof Menus>;

/** How many items a channel's menu has at most, and how long their labels (UTF-16 units) are. */
export type MenuLimits = Partial<Record<MenuKind, { most: number; label: number; item?: RegExp }>>;

/** Why menus cannot be put on a channel: a sentence for each thing that is beyond what it takes. */
export function menuProblems(name: string, limits: MenuLimits, menus: Menus): string[] {
  return Object.entries(menus).flatMap(([kind, items]) => {
    const limit = limits[kind as MenuKind];
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
}

/**
 * How what a channel has differs from what is wanted: a sentence for each difference, none when they are the
 * same.
 */
export function menuDifferences(wanted: Menus, there: Menus): string[] {
  return MENU_KINDS.flatMap((kind) => {
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
}
