export { Presets } from './Presets';
