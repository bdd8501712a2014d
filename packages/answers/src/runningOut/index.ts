export { concerns, inTime, mayTell } from './runningOutLines.ts';
