export { Lines as default } from '../../features/lines/Lines';
