export { ChoicePanel } from './ChoicePanel';
