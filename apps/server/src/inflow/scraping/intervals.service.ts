import { Injectable, type OnModuleInit } from '@nestjs/common';
import { type IntervalsAnswer, IntervalsDocument } from '@zetopsis/contract';
import type { DurationMs } from '@zetopsis/core/units';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';

const KEY = 'all';
const UNSAID: IntervalsDocument = IntervalsDocument.parse({});

/** How often pages are read that say nothing of it themselves. */
@Injectable()
export class IntervalsService implements OnModuleInit {
  constructor(private readonly configuration: ConfigurationService) {}

  onModuleInit(): void {
    this.configuration.addCheck((_, changes) =>
      changes.flatMap(({ kind, key, after }) =>
        kind === 'intervals' && after !== null && key !== KEY
          ? [{ kind, key, path: [], text: `Intervals have one entry, “${KEY}”.` }]
          : [],
      ),
    );
  }
  onChange(listener: () => void | Promise<void>): void {
    this.configuration.onApplied('intervals', listener);
  }

  private get document(): IntervalsDocument {
    return this.configuration.get('intervals', KEY) ?? UNSAID;
  }
  of({ intervalSeconds, group }: { readonly intervalSeconds: number | null; readonly group: string }): DurationMs {
    const { groups, intervalSeconds: overall } = this.document;
    return (intervalSeconds ?? (Object.hasOwn(groups, group) ? groups[group]! : overall)) * 1000;
  }

  answer(): IntervalsAnswer {
    const { document } = this;
    const groups = new Map(Object.keys(document.groups).map((group) => [group, { byGroup: 0, byThemselves: 0 }]));
    const sources = [...this.configuration.all('endpoint').values(), ...this.configuration.all('scout').values()];
    for (const { group, intervalSeconds } of sources) {
      if (group === '') continue;
      const own = groups.get(group) ?? { byGroup: 0, byThemselves: 0 };
      groups.set(group, own);
      if (intervalSeconds === null) own.byGroup++;
      else own.byThemselves++;
    }
    return {
      document,
      groups: [...groups].map(([group, counts]) => ({ group, ...counts })).sort((a, b) => (a.group < b.group ? -1 : 1)),
    };
  }
  async save(by: string, document: IntervalsDocument): Promise<IntervalsAnswer> {
    await this.configuration.change({
      by,
      what: 'said how often is read',
      wishes: [{ kind: 'intervals', key: KEY, after: document }],
    });
    return this.answer();
  }
}
