export { Explain } from './Explain';
