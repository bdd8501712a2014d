import { Injectable, type OnModuleInit } from '@nestjs/common';
import {
  EVERYTHING,
  type ObjectPath,
  placeOf,
  readPath,
  type StretchAnswer,
  type StretchDocument,
} from '@zetopsis/contract';
import type { EpochMs } from '@zetopsis/core/units';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { type Asker, KeptForTeams } from '../owners/keptForTeams.service.ts';

const MOST = 2000;
export const scopeOf = ({ scope }: Pick<StretchDocument, 'scope'>): ObjectPath => readPath(scope) ?? EVERYTHING;
const endOf = ({ to }: StretchDocument): EpochMs => (to === null ? Number.POSITIVE_INFINITY : Date.parse(to));

/** Stretches of time that people, delivery pipelines and alerts marked. */
@Injectable()
export class StretchesService implements OnModuleInit {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly forTeams: KeptForTeams,
    private readonly clock: Clock,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck(problemsOf);
  }

  /** Those that touch a time, as far as somebody sees where they are, and whose they are. */
  within(asker: Asker, from: EpochMs, to: EpochMs): { readonly key: string; readonly document: StretchDocument }[] {
    const found: { key: string; document: StretchDocument }[] = [];
    for (const [key, document] of this.configuration.all('stretch'))
      if (this.sees(asker, document) && Date.parse(document.from) <= to && endOf(document) >= from)
        found.push({ key, document });
    return found.sort((a, b) => Date.parse(b.document.from) - Date.parse(a.document.from));
  }
  list(asker: Asker, from: EpochMs, to: EpochMs): StretchAnswer[] {
    return this.within(asker, from, to).map(({ key, document }) => ({
      key,
      document,
      owner: this.forTeams.nameOf(document.team),
      mayChange: this.mayChange(asker, document),
    }));
  }
  private sees(asker: Asker, document: StretchDocument): boolean {
    return asker.reach.sees(placeOf(scopeOf(document))) && this.forTeams.sees(asker, document.team);
  }
  /** Who operates where it is may mark it; of a team, its members too. */
  mayChange(asker: Asker, document: Pick<StretchDocument, 'scope' | 'team'>): boolean {
    const { cluster, namespace } = placeOf(scopeOf(document));
    const operates =
      cluster === null ? asker.reach.mayEverywhere('operate') : asker.reach.may('operate', cluster, namespace);
    return operates && (document.team === null || this.forTeams.mayChange(asker, document.team));
  }

  async add(asker: Asker, by: string, document: StretchDocument): Promise<string> {
    this.demandChange(asker, document);
    const all = this.configuration.all('stretch');
    if (all.size >= MOST)
      throw new Refusal('conflict', `There are ${MOST} stretches already. Remove some that are old.`);
    const key = freeKey(document.title, 'stretch', (one) => all.has(one));
    await this.configuration.change({
      by,
      what: `marked ${document.kind}: ${document.title}`,
      wishes: [{ kind: 'stretch', key, after: document, fresh: true }],
    });
    return key;
  }
  async save(asker: Asker, by: string, key: string, document: StretchDocument): Promise<void> {
    this.demandChange(asker, this.look(asker, key));
    this.demandChange(asker, document);
    await this.configuration.change({
      by,
      what: `changed the stretch ${document.title}`,
      wishes: [{ kind: 'stretch', key, after: document }],
    });
  }
  /** One that goes on ends. */
  async end(asker: Asker, by: string, key: string, at: string | undefined): Promise<void> {
    const document = this.look(asker, key);
    const to = at ?? new Date(this.clock.now()).toISOString();
    if (document.to !== null) throw new Refusal('conflict', 'This stretch has ended already.');
    if (Date.parse(to) <= Date.parse(document.from))
      throw new Refusal('invalid', 'It would end before it begins.', [{ path: 'at', text: 'before its beginning' }]);
    await this.save(asker, by, key, { ...document, to });
  }
  async remove(asker: Asker, by: string, key: string): Promise<void> {
    const document = this.look(asker, key);
    this.demandChange(asker, document);
    await this.configuration.change({
      by,
      what: `removed the stretch ${document.title}`,
      wishes: [{ kind: 'stretch', key, after: null }],
    });
  }
  private look(asker: Asker, key: string): StretchDocument {
    const document = this.configuration.get('stretch', key);
    if (!document || !this.sees(asker, document)) throw new Refusal('notFound', 'There is no such stretch (any more).');
    return document;
  }
  private demandChange(asker: Asker, document: StretchDocument): void {
    if (!this.mayChange(asker, document))
      throw new Refusal(
        'notAllowed',
        'A stretch is marked by whoever operates where it is. An administrator can grant it.',
      );
  }
}

/** Teams that are not there. */
function problemsOf(wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] {
  if (!changes.some(({ kind }) => kind === 'stretch' || kind === 'team')) return [];
  return [...wanted.all('stretch')].flatMap(([key, { title, team }]): DocumentProblem[] =>
    team === null || wanted.get('team', team) !== null
      ? []
      : [
          {
            kind: 'stretch',
            key,
            path: ['team'],
            text: `The stretch “${title}” belongs to the team ${team}, which is not there.`,
          },
        ],
  );
}
