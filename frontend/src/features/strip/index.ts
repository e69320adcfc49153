export { TestStrip } from './TestStrip';
