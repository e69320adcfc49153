export { Intake } from './Intake';
export { IntakeStart } from './IntakeStart';
