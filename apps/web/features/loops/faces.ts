/** The faces of a loop's workbench. */
export const FACES = {
  script: 'Script',
  route: 'Route',
  rehearse: 'Rehearse',
  checks: 'Checks',
  lands: 'As it lands',
} as const;
export type Face = keyof typeof FACES;
