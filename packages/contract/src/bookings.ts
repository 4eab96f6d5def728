import { z } from 'zod';
import { Calendar } from '@dart-loop/core/booking/calendar';

export const SaveCalendar = Calendar;
export type SaveCalendar = Calendar;

export interface CalendarRow {
  id: string;
  /** Another one as soon as somebody changes the calendar. */
  revision: string;
  calendar: Calendar;
  /** Bookings in it that are still to come. */
  toCome: number;
  /** The next times that are free, as ISO 8601, and the client's time zone, by whose clock they are shown. */
  free: string[];
  zone: string;
  /** Loops that book in it. */
  loops: string[];
}

export const BookingsQuery = z.object({
  when: z.enum(['to come', 'past']).default('to come'),
  after: z.string().max(80).optional(),
});
export interface BookingRow {
  id: string;
  calendar: string;
  personId: string;
  name: string;
  startsAt: string;
  endsAt: string;
  state: 'booked' | 'cancelled';
  /** Where the person is written to; null where there is no conversation. */
  conversationId: string | null;
}
export interface BookingsPage {
  /** Of the client's clock, by which all times are shown. */
  zone: string;
  rows: BookingRow[];
  next: string | null;
}
