import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

@Entity({ name: 'rule' })
export class RuleEntity {
  @PrimaryGeneratedColumn()
  id: number;
  @Column({ type: 'text' })
  kind: 'containerMemory' | 'readyPods';
  @Column({ type: 'text' })
  name: string;
  @Column({ type: 'boolean' })
  enabled: boolean;
  @Column({ type: 'text' })
  severity: 'critical' | 'warning';
  @Column({ type: 'integer', name: 'holds_seconds' })
  holdsSeconds: number;
  @Column({ type: 'integer', name: 'eases_seconds' })
  easesSeconds: number;
  @Column({ type: 'double precision', nullable: true })
  above: number | null;
  /** Everything up to here has been judged. */
  @Column({ type: 'bigint', name: 'judged_ms', nullable: true })
  judgedMs: number | null;
}
