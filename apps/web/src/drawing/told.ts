import type { NowAnswer } from '@zetopsis/contract';

/** Who was told, in a few words; that nobody was is said as plainly. */
export function toldWords({ told, team, hushed }: NowAnswer['alerts'][number]): string {
  const [message] = told;
  if (!message) {
    if (hushed !== null) return `kept quiet: ${hushed}`;
    return team === null ? 'nobody was told: its namespace has no owner' : 'nobody was told';
  }
  if (message.state === 'sent') return `told ${message.to}`;
  if (message.state === 'dead') return `could not tell ${message.to}: ${message.error ?? 'no reason known'}`;
  return message.error === null ? `telling ${message.to}` : `not told yet: ${message.error}`;
}
