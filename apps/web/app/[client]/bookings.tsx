export { Bookings as default } from '../../features/bookings/Bookings';
