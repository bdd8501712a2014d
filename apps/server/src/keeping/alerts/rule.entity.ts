import type { RuleKind } from '@zetopsis/core/rules';
import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** What is kept of a rule beside its document: its number, and how far it has judged. */
@Entity({ name: 'rule' })
export class RuleEntity {
  @PrimaryGeneratedColumn()
  id: number;
  /** Also the key of its document. */
  @Column({ type: 'text' })
  kind: RuleKind;
  /** Everything up to here has been judged. */
  @Column({ type: 'bigint', name: 'judged_ms', nullable: true })
  judgedMs: number | null;
}
