import {
  type ConnectionAnswer,
  type ConnectionTest,
  type EndpointAnswer,
  type ImportAnswer,
  OPTIONAL_KINDS,
  type SourcesAnswer,
} from '@zetopsis/contract';
import { formatBytes, formatClock, formatDuration } from '@zetopsis/core/format';

export function connectionWords({ state, since, lastContactAt }: ConnectionAnswer, now: number): string {
  const heard = lastContactAt === null ? 'never heard of' : `last heard of ${formatDuration(now - lastContactAt)} ago`;
  return `${state === 'blind' ? 'for' : 'since'} ${state === 'blind' ? formatDuration(now - since) : formatClock(since, now)}, ${heard}`;
}

export const endpointName = ({ connection, name }: Pick<EndpointAnswer, 'connection' | 'name'>): string =>
  connection === null ? name : `${connection} › ${name}`;

/** Only what is not as it should be needs words. */
export function endpointWords(
  { kind, state, lastError, lastErrorAt, since, nextDueAt }: EndpointAnswer,
  now: number,
): string | null {
  switch (state) {
    case 'failing':
      return `${lastError ?? 'no reason known'} Failing for ${formatDuration(now - since)}${nextDueAt === null ? '' : `; next try ${nextDueAt > now ? `in ${formatDuration(nextDueAt - now)}` : 'now'}`}.`;
    case 'late':
      return kind === 'pushed' ? 'Nothing was pushed for longer than expected.' : 'Its reading is overdue.';
    case 'waiting':
      return nextDueAt === null ? null : `first reading expected at ${formatClock(nextDueAt, now, { seconds: true })}`;
    case 'paused':
      return `paused ${formatDuration(now - since)} ago; the gap is marked as planned`;
    case 'retired':
      return 'what it was of is gone, or it was retired; what was read is kept';
    case 'read':
      return lastErrorAt !== null && now - lastErrorAt < 600_000
        ? `failed ${formatDuration(now - lastErrorAt)} ago: ${lastError}`
        : null;
  }
}

const FIELD_WORDS: Record<string, string> = {
  name: 'the name',
  address: 'the address',
  token: 'the token',
  authority: 'the certificate authority',
};

export function trimmedWords(fields: readonly string[]): string | null {
  if (fields.length === 0) return null;
  return `Blanks around or inside ${fields.map((field) => FIELD_WORDS[field] ?? field).join(' and ')} were left out.`;
}

/** Not granted on purpose: nothing else suffers by it. */
export const isLeftOut = (kind: string, state: string): boolean => state === 'not allowed' && OPTIONAL_KINDS.has(kind);

export function testVerdict(test: ConnectionTest): string {
  if (!test.reached) return 'It cannot be read.';
  const missing = test.kinds.filter((one) => one.may !== 'read' && !isLeftOut(one.kind, one.may)).length;
  if (missing === 0 && test.nodePage?.ok !== false) return 'Everything Zetopsis reads may be read.';
  if (missing === test.kinds.length) return 'Nothing may be read with this token.';
  return 'It can be read in part; what is missing stands below.';
}

/** How much room is taken, and when there is none left. */
export function spaceWords(
  { usedBytes, roomBytes, room, fullAt, hoursKnown }: NonNullable<SourcesAnswer['store']['space']>,
  now: number,
): string {
  const used = `${formatBytes(usedBytes)} taken`;
  if (roomBytes === null) return `${used}; how much room there is can be set under Admin, Retention and limits.`;
  const of = `${used} of ${formatBytes(roomBytes)} ${room === 'set' ? 'set for it' : 'on its disk'}`;
  if (fullAt !== null) return `${of}: full in ${formatDuration(fullAt - now)} at this pace.`;
  return hoursKnown < HOURS_NEEDED
    ? `${of}; when it is full can be said after half a day.`
    : `${of}; it does not grow.`;
}
const HOURS_NEEDED = 12;

export function importWords({ what, added, same, other, leftOut }: ImportAnswer): string {
  const unit = `${what === 'samples' ? 'sample' : 'state'}${added === 1 ? '' : 's'}`;
  return [
    `${added.toLocaleString('en')} ${unit}`,
    ...(same > 0 ? [`${same.toLocaleString('en')} known already`] : []),
    ...(other > 0 ? [`${other.toLocaleString('en')} known otherwise, which stay`] : []),
    ...(leftOut > 0 ? [`${leftOut.toLocaleString('en')} left out`] : []),
  ].join(', ');
}
