export { readMoment } from './moment.ts';
export { Ranking, ranked, rankOf } from './rank.ts';
