import type { EpochMs } from '@zetopsis/core/units';

const NIGHT = { from: 22, to: 7 } as const;
/** Whether it is night in a zone: between 22:00 and 07:00. */
export function nightsIn(zone: string): (at: EpochMs) => boolean {
  const hour = new Intl.DateTimeFormat('en-GB', { hour: 'numeric', hourCycle: 'h23', timeZone: zone });
  return (at) => {
    const own = Number(hour.format(at));
    return own >= NIGHT.from || own < NIGHT.to;
  };
}
