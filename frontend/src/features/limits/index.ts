export { Limits } from './Limits';
