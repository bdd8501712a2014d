import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { MeasureDocument, MeasureVersionsAnswer, SavedMeasuresAnswer } from '@zetopsis/contract';
import { type Body, circleIn, parseMeasure, printMeasure, titlesRead } from '@zetopsis/core/measures';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { kindOfChange, linesBetween } from '../../ground/configuration/differences.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { type Asker, KeptForTeams } from '../owners/keptForTeams.service.ts';

const MOST = 2000;
const MOST_VERSIONS = 50;

/** Measures that are kept: everybody's, and those of teams for their members. */
@Injectable()
export class SavedMeasures implements OnModuleInit {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly forTeams: KeptForTeams,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck(problemsOf);
  }

  private *visible(asker: Asker): Generator<readonly [key: string, document: MeasureDocument]> {
    for (const entry of this.configuration.all('measure')) if (this.forTeams.sees(asker, entry[1].team)) yield entry;
  }

  /** What a measure of this title computes, as far as somebody may see it. */
  bodyOf(asker: Asker, title: string): Body | null {
    for (const [, document] of this.visible(asker))
      if (document.title === title) {
        const read = parseMeasure(document.text);
        return 'body' in read ? read.body : null;
      }
    return null;
  }
  *titles(asker: Asker): Generator<string> {
    for (const [, { title }] of this.visible(asker)) yield title;
  }

  /** `unitOf`: what a text comes out in, or why it does not at present. */
  async list(
    asker: Asker,
    unitOf: (text: string) => { readonly unit: string | null; readonly problem: string | null },
  ): Promise<SavedMeasuresAnswer> {
    const all = [...this.visible(asker)];
    const readBy = new Map<string, string[]>();
    const units = new Map<string, ReturnType<typeof unitOf>>();
    await inPieces(all, ([key, { title, text }]) => {
      const read = parseMeasure(text);
      for (const own of 'body' in read ? titlesRead(read.body) : [])
        readBy.set(own, [...(readBy.get(own) ?? []), title]);
      units.set(key, unitOf(text));
    });
    const { everywhere, teams } = this.forTeams.writableBy(asker);
    return {
      measures: all
        .map(([key, { title, note, team, text }]) => ({
          key,
          title,
          note,
          team,
          owner: this.forTeams.nameOf(team),
          text,
          ...units.get(key)!, // one for each
          readBy: readBy.get(title) ?? [],
          mayChange: this.forTeams.mayChange(asker, team),
        }))
        .sort((a, b) => a.title.localeCompare(b.title)),
      teams,
      everybody: everywhere,
    };
  }

  async add(asker: Asker, by: string, document: MeasureDocument): Promise<string> {
    this.demandChange(asker, document.team);
    const all = this.configuration.all('measure');
    if (all.size >= MOST) throw new Refusal('conflict', `${MOST} measures are kept already. Remove one first.`);
    const key = freeKey(document.title, 'measure', (one) => all.has(one));
    await this.configuration.change({
      by,
      what: `kept the measure ${document.title}`,
      wishes: [{ kind: 'measure', key, after: canonical(document), fresh: true }],
    });
    return key;
  }
  async save(asker: Asker, by: string, key: string, document: MeasureDocument): Promise<void> {
    const before = this.look(asker, key);
    this.demandChange(asker, before.team);
    this.demandChange(asker, document.team);
    await this.configuration.change({
      by,
      what: `changed the measure ${document.title}`,
      wishes: [{ kind: 'measure', key, after: canonical(document) }],
    });
  }
  async remove(asker: Asker, by: string, key: string): Promise<void> {
    const { team, title } = this.look(asker, key);
    this.demandChange(asker, team);
    await this.configuration.change({
      by,
      what: `removed the measure ${title}`,
      wishes: [{ kind: 'measure', key, after: null }],
    });
  }
  /** Of one that is there: its past may have been another team's, but whoever owns it now may read on. */
  async versions(asker: Asker, key: string): Promise<MeasureVersionsAnswer> {
    this.look(asker, key);
    const found = await this.configuration.versionsOf('measure', key, MOST_VERSIONS);
    return {
      versions: found
        .filter(({ change: { before, after } }) =>
          [before, after].every((one) => one === null || this.forTeams.sees(asker, one.team)),
        )
        .map(({ revision: { id, at, by }, change }) => ({
          revision: id,
          at,
          by,
          was: kindOfChange(change),
          document: change.after,
          lines: linesBetween(inWords(change.before), inWords(change.after)),
        })),
    };
  }
  private look(asker: Asker, key: string): MeasureDocument {
    const document = this.configuration.get('measure', key);
    if (!document || !this.forTeams.sees(asker, document.team))
      throw new Refusal('notFound', 'There is no such measure (any more).');
    return document;
  }
  private demandChange(asker: Asker, team: string | null): void {
    this.forTeams.demandChange(asker, team, {
      everybody: 'A measure of everybody is changed by administrators. Keep one for a team of yours.',
      team: 'A team’s measure is changed by its members.',
    });
  }
}

const inWords = (document: MeasureDocument | null): string =>
  document === null
    ? ''
    : [
        `title: ${document.title}`,
        `team: ${document.team ?? 'everybody'}`,
        ...(document.note === '' ? [] : document.note.split('\n').map((line) => `note: ${line}`)),
        document.text.trimEnd(),
        '',
      ].join('\n');
/** As it is printed: two writings of one measure are no difference. */
function canonical(document: MeasureDocument): MeasureDocument {
  const read = parseMeasure(document.text);
  return 'body' in read ? { ...document, text: printMeasure(read.body) } : document;
}
/** Two of one title, circles, what reads a measure that is not there, and teams that are not. */
function problemsOf(wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] {
  if (!changes.some(({ kind }) => kind === 'measure' || kind === 'team')) return [];
  const all = [...wanted.all('measure')];
  const problems: DocumentProblem[] = [];
  const say = (key: string, path: string, text: string) => problems.push({ kind: 'measure', key, path: [path], text });
  const titles = new Map<string, string>();
  for (const [key, { title, team }] of all) {
    const other = titles.get(title);
    if (other !== undefined)
      say(key, 'title', `“${title}” is what the measure ${other} is called: a title is one measure’s.`);
    titles.set(title, key);
    if (team !== null && wanted.get('team', team) === null)
      say(key, 'team', `The measure “${title}” belongs to the team ${team}, which is not there.`);
  }
  const circle = circleIn(new Map(all.map(([, { title, text }]) => [title, text])));
  if (circle !== null)
    say(titles.get(circle[0]!) ?? '', 'text', `“${circle.join('” reads “')}”: a measure cannot read itself.`);
  for (const [key, { title, text }] of all) {
    const read = parseMeasure(text);
    for (const own of 'body' in read ? titlesRead(read.body) : [])
      if (!titles.has(own)) say(key, 'text', `“${title}” reads the measure “${own}”, which is not there.`);
  }
  return problems;
}
