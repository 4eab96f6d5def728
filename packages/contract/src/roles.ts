export const ROLES = ['owner', 'builder', 'operator', 'client'] as const;
export type Role = (typeof ROLES)[number];

/**
 * What one may do; each role has some. The server checks every route against this table, the web hides what
 * is not allowed. What an operator may do beyond it: {@link GRANTS}.
 */
export const PERMISSIONS = {
  'see conversations': ['owner', 'builder', 'operator', 'client'],
  'answer conversations': ['owner', 'builder', 'operator'],
  'see people of the inbox': ['owner', 'builder', 'operator'],
  'see people': ['owner', 'builder'],
  'change people': ['owner', 'builder'],
  'manage people': ['owner', 'builder'],
  'see loops': ['owner', 'builder'],
  'change loops': ['owner', 'builder'],
  'see lines': ['owner', 'builder'],
  'change lines': ['owner', 'builder'],
  'see sync': ['owner', 'builder'],
  'change sync': ['owner', 'builder'],
  'see bookings': ['owner', 'builder'],
  'change bookings': ['owner', 'builder'],
  'change calendars': ['owner', 'builder'],
  'see sources': ['owner', 'builder'],
  'change sources': ['owner', 'builder'],
  'use the test phone': ['owner', 'builder'],
  'see brief': ['owner', 'builder'],
  'change brief': ['owner', 'builder'],
  'manage clients': ['owner'],
  'manage team': ['owner'],
  'see audit': ['owner'],
} as const satisfies Record<string, readonly Role[]>;
export type Permission = keyof typeof PERMISSIONS;

/** What an operator may be given by an owner, one by one. */
export const GRANTS = {
  people: ['see people', 'change people'],
  bookings: ['see bookings', 'change bookings'],
  brief: ['see brief'],
} as const satisfies Record<string, readonly Permission[]>;
export type Grant = keyof typeof GRANTS;
export const GRANT_KEYS = Object.keys(GRANTS) as Grant[];

/** What somebody's account says of what they may do. */
export interface Rights {
  role: Role;
  grants: readonly Grant[];
}

/** Whether somebody may do something: by their role, or as it was granted to them. */
export function may({ role, grants }: Rights, permission: Permission): boolean {
  if ((PERMISSIONS[permission] as readonly Role[]).includes(role)) return true;
  return (
    role === 'operator' &&
    grants.some((grant) => (GRANTS[grant] as readonly Permission[]).includes(permission))
  );
}
