export { type Scored, scoreIncident, scoreNight } from './score.ts';
