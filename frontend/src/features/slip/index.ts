export { Slip } from './Slip';
