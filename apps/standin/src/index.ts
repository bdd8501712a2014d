export { type StandIn, type StandInOptions, startStandIn, type WorldCard } from './standIn.ts';
