/** What the web and the server say to each other. Requests are Zod schemas, parsed by the server; answers are types. */
export * from './roles';
export * from './session';
export * from './loops';
export * from './inbox';
export * from './people';
export * from './lines';
export * from './today';
export * from './phone';
export * from './webhooks';
export * from './sync';
export * from './api';
export * from './bookings';

/** An error's body: RFC 9457 problem details. */
export interface ProblemDetails {
  type: string;
  title: string;
  status: number;
  detail: string;
  /** Single fields that were wrong. */
  errors?: { field: string; detail: string }[];
}
