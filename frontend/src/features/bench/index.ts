export { Bench } from './Bench';
