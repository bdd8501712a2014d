export { readMoment } from './moment.ts';
export { ranked, rankOf } from './rank.ts';
