import { Injectable, type OnModuleInit } from '@nestjs/common';
import type { RuleDocument } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import { isWithinHours } from '@zetopsis/core/rules';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange } from '../../ground/configuration/documents.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { RuleLooks } from './ruleLooks.service.ts';

/** What is tried of a file takes so long at most; so many rules of it are looked at. */
const LONGEST = 8000;
const MOST_RULES = 50;
const NAMED = 3;

/** What a rule would raise by how things stand now, once it has held for its time; told to nobody. */
@Injectable()
export class WouldRaise implements OnModuleInit {
  constructor(
    private readonly looks: RuleLooks,
    private readonly configuration: ConfigurationService,
    private readonly clock: Clock,
  ) {}

  onModuleInit(): void {
    this.configuration.addPreview((changes) => this.preview(changes));
  }

  /** For each rule that a file adds or changes, in words. */
  private async preview(changes: readonly DocumentChange[]): Promise<ReadonlyMap<DocumentChange, string>> {
    const told = new Map<DocumentChange, string>();
    const begun = Date.now();
    let looked = 0;
    for (const change of changes) {
      if (change.kind !== 'rule' || change.after === null) continue;
      const document = change.after as RuleDocument; // of this kind
      if (document.state === 'off') continue;
      looked++;
      const late = looked > MOST_RULES || Date.now() - begun > LONGEST;
      told.set(
        change,
        late ? 'What it would raise now was not looked at: there is too much at once.' : await this.words(document),
      );
    }
    return told;
  }
  private async words(document: RuleDocument): Promise<string> {
    try {
      const { looked, objects, holding } = await this.now(document);
      if (!looked) return 'What it would raise now cannot be said: nothing that it looks at is read at present.';
      if (holding.length === 0) return `Nothing would be raised now, of ${formatCount(objects, 'object')}.`;
      const critical = holding.filter(({ severity }) => severity === 'critical').length;
      const names = holding.slice(0, NAMED).map(({ name }) => name);
      const more = holding.length > names.length ? ` and ${holding.length - names.length} more` : '';
      return `It would be raised now, once held for its time, of ${holding.length} of ${formatCount(objects, 'object')}${critical > 0 ? ` (${critical} critical)` : ''}: ${names.join(', ')}${more}.`;
    } catch (error) {
      if (error instanceof Refusal) return `It cannot be judged as it stands: ${error.message}`;
      throw error;
    }
  }
  /** Objects for which a level holds now, without its time. */
  async now(document: RuleDocument): Promise<{
    /** Anything at all: of a cluster that is not read nobody knows. */
    readonly looked: boolean;
    readonly objects: number;
    readonly holding: readonly { readonly name: string; readonly severity: Severity }[];
  }> {
    const now = this.clock.now();
    const holding: { name: string; severity: Severity }[] = [];
    let objects = 0;
    let looked = false;
    // it was never judged, and nothing is kept of it
    for await (const look of this.looks.now({ ...document, id: 0, key: '', judgedMs: null })) {
      looked ||= look.moments.length > 0;
      const at = look.moments.at(-1) ?? now;
      const judged = document.hours === null || isWithinHours(document.hours, at);
      for (const subject of look.subjects) {
        objects++;
        if (!judged) continue;
        const { warning, critical } = subject.verdicts(at);
        if (document.levels.critical !== null && critical.is === 'holds')
          holding.push({ name: subject.name, severity: 'critical' });
        else if (document.levels.warning !== null && warning.is === 'holds')
          holding.push({ name: subject.name, severity: 'warning' });
      }
    }
    return { looked, objects, holding };
  }
}
