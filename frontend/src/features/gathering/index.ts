export { GatherPanel } from './GatherPanel';
