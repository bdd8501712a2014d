import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { MaskDocument, MaskPreview, MasksAnswer } from '@zetopsis/contract';
import { masked, nothingMasked, type OwnPattern, ownPattern } from '@zetopsis/core/lines';
import type { Stream } from '@zetopsis/core/origins';
import { HOUR } from '@zetopsis/core/units';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LineQuotas } from '../../inflow/push/lineQuotas.service.ts';
import { OwnPatterns } from '../../inflow/push/ownPatterns.ts';
import { LineReader } from '../../keeping/records/lineReader.ts';
import { type Asker, KeptForTeams } from '../owners/keptForTeams.service.ts';
import { OwnersService } from '../owners/owners.service.ts';

/** Each costs a walk over every line. */
const MOST = 100;
const LOOKED_AT = 3000;
const EXAMPLES = 10;
const SHOWN = 300;

/** Patterns of teams, and of the platform, that are masked in log lines before these are kept. */
@Injectable()
export class MasksService implements OnModuleInit {
  /** By team; those of null are for all. */
  private compiled: Map<string | null, OwnPattern[]> | null = null;

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly owners: OwnersService,
    private readonly forTeams: KeptForTeams,
    private readonly asked: OwnPatterns,
    private readonly quotas: LineQuotas,
    private readonly reader: LineReader,
    private readonly clock: Clock,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck(problemsOf);
    this.configuration.onApplied('mask', () => {
      this.compiled = null;
    });
    this.quotas.onAsked(({ cluster, namespace }, team) => {
      const owner =
        cluster === null || namespace === null
          ? (this.owners.teams().find(({ key }) => key === team) ?? null)
          : this.owners.ownerOf(cluster, namespace);
      return owner && { team: owner.key, name: owner.name, most: owner.linesADay ?? null };
    });
    this.asked.onAsked(({ cluster, namespace }, team) => {
      const all = this.patterns();
      if (all.size === 0) return [];
      const owner =
        cluster === null || namespace === null ? null : (this.owners.ownerOf(cluster, namespace)?.key ?? null);
      return [...new Set([null, owner, team])].flatMap((one) => all.get(one) ?? []);
    });
  }
  private patterns(): Map<string | null, OwnPattern[]> {
    if (this.compiled) return this.compiled;
    const made = new Map<string | null, OwnPattern[]>();
    for (const { team, pattern } of this.configuration.all('mask').values())
      made.set(team, [...(made.get(team) ?? []), ownPattern(pattern)]);
    this.compiled = made;
    return made;
  }

  list(asker: Asker): MasksAnswer {
    const { everywhere, teams } = this.forTeams.writableBy(asker);
    return {
      masks: [...this.configuration.all('mask')]
        .filter(([, { team }]) => this.forTeams.sees(asker, team))
        .map(([key, document]) => ({
          key,
          document,
          owner: this.forTeams.nameOf(document.team),
          mayChange: this.forTeams.mayChange(asker, document.team),
        })),
      teams,
      everybody: everywhere,
    };
  }
  /** Of the newest lines of the last hour that would have been looked at, as they are kept: what was masked then stays so. */
  async preview(asker: Asker, document: MaskDocument): Promise<MaskPreview> {
    this.demandChange(asker, document);
    const own = [ownPattern(document.pattern)];
    const now = this.clock.now();
    const streams = (await this.reader.streams()).filter((stream) => this.isOf(document, stream));
    const { lines } = await this.reader.newest({
      streams: streams.map(({ id }) => id),
      from: now - HOUR,
      to: now + HOUR,
      having: {},
      most: LOOKED_AT,
    });
    const examples: MaskPreview['examples'] = [];
    let changed = 0;
    await inPieces(lines, ({ text, fields }) => {
      const before = [text, ...fields.map(([name, value]) => `${name} ${value}`)].join(' · ');
      const after = masked(before, nothingMasked(), own);
      if (after === before) return;
      changed++;
      if (examples.length < EXAMPLES) examples.push({ before: before.slice(0, SHOWN), after: after.slice(0, SHOWN) });
    });
    return { looked: lines.length, masked: changed, examples };
  }
  private isOf({ team }: MaskDocument, { cluster, namespace }: Stream): boolean {
    if (team === null) return true;
    return cluster !== null && namespace !== null && this.owners.ownerOf(cluster, namespace)?.key === team;
  }

  async add(asker: Asker, by: string, document: MaskDocument): Promise<string> {
    this.demandChange(asker, document);
    const all = this.configuration.all('mask');
    if (all.size >= MOST) throw new Refusal('conflict', `There are ${MOST} masks already. Join some of them.`);
    const key = freeKey(document.title, 'mask', (one) => all.has(one));
    await this.configuration.change({
      by,
      what: `masked ${document.title} in log lines`,
      wishes: [{ kind: 'mask', key, after: document, fresh: true }],
    });
    return key;
  }
  async save(asker: Asker, by: string, key: string, document: MaskDocument): Promise<void> {
    this.demandChange(asker, this.look(asker, key));
    this.demandChange(asker, document);
    await this.configuration.change({
      by,
      what: `changed the mask ${document.title}`,
      wishes: [{ kind: 'mask', key, after: document }],
    });
  }
  async remove(asker: Asker, by: string, key: string): Promise<void> {
    const document = this.look(asker, key);
    this.demandChange(asker, document);
    await this.configuration.change({
      by,
      what: `removed the mask ${document.title}`,
      wishes: [{ kind: 'mask', key, after: null }],
    });
  }
  private look(asker: Asker, key: string): MaskDocument {
    const document = this.configuration.get('mask', key);
    if (!document || !this.forTeams.sees(asker, document.team))
      throw new Refusal('notFound', 'There is no such mask (any more).');
    return document;
  }
  private demandChange(asker: Asker, { team }: Pick<MaskDocument, 'team'>): void {
    this.forTeams.demandChange(asker, team, {
      everybody: 'What is masked in everybody’s lines is an administrator’s to say.',
      team: 'What is masked in lines of a team is its members’ to say.',
    });
  }
}

/** Teams that are not there. */
function problemsOf(wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] {
  if (!changes.some(({ kind }) => kind === 'mask' || kind === 'team')) return [];
  return [...wanted.all('mask')].flatMap(([key, { title, team }]): DocumentProblem[] =>
    team === null || wanted.get('team', team) !== null
      ? []
      : [
          {
            kind: 'mask',
            key,
            path: ['team'],
            text: `The mask “${title}” belongs to the team ${team}, which is not there.`,
          },
        ],
  );
}
