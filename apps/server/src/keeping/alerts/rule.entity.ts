import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** What is kept of a rule beside its document: its number, and how far it has judged. */
@Entity({ name: 'rule' })
export class RuleEntity {
  @PrimaryGeneratedColumn()
  id: number;
  /** Of its document. */
  @Column({ type: 'text' })
  key: string;
  /** Everything up to here has been judged. */
  @Column({ type: 'bigint', name: 'judged_ms', nullable: true })
  judgedMs: number | null;
}
