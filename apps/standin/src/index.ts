export { READER_RULES } from './api/account.ts';
export { type StandIn, type StandInOptions, startStandIn, type WorldCard } from './standIn.ts';
