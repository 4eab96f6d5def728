export const ROLES = ['owner', 'builder', 'operator', 'client'] as const;
export type Role = (typeof ROLES)[number];

/**
 * What one may do; each role has some. The server checks every route against this table, the web hides what
 * is not allowed.
 */
export const PERMISSIONS = {
  'see conversations': ['owner', 'builder', 'operator', 'client'],
  'answer conversations': ['owner', 'builder', 'operator'],
  'see people': ['owner', 'builder', 'operator'],
  'change people': ['owner', 'builder', 'operator'],
  'manage people': ['owner', 'builder'],
  'see loops': ['owner', 'builder'],
  'change loops': ['owner', 'builder'],
  'see lines': ['owner', 'builder'],
  'change lines': ['owner', 'builder'],
  'see sync': ['owner', 'builder'],
  'change sync': ['owner', 'builder'],
  'see bookings': ['owner', 'builder', 'operator'],
  'change bookings': ['owner', 'builder', 'operator'],
  'change calendars': ['owner', 'builder'],
  'use the test phone': ['owner', 'builder'],
  'see brief': ['owner', 'builder', 'operator'],
  'change brief': ['owner', 'builder'],
  'manage clients': ['owner'],
  'manage team': ['owner'],
  'see audit': ['owner'],
} as const satisfies Record<string, readonly Role[]>;
export type Permission = keyof typeof PERMISSIONS;

export function may(role: Role, permission: Permission): boolean {
  return (PERMISSIONS[permission] as readonly Role[]).includes(role);
}
