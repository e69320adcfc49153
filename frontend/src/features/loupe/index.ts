export { Loupe } from './Loupe';
