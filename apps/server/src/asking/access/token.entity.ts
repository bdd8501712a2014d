import { Column, CreateDateColumn, Entity, JoinColumn, ManyToOne, PrimaryGeneratedColumn } from 'typeorm';
import { PersonEntity } from './person.entity.ts';

/** A person's key for the API. Only its hash is kept. */
@Entity({ name: 'access_token' })
export class TokenEntity {
  @PrimaryGeneratedColumn('uuid')
  id: string;
  @ManyToOne(() => PersonEntity, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'person_id' })
  person: PersonEntity;
  @Column({ type: 'text' })
  name: string;
  @Column({ type: 'text', name: 'token_hash', unique: true })
  tokenHash: string;
  @Column({ type: 'jsonb' })
  bound: { level: 'read' | 'operate' | 'administer'; cluster: string | null; namespace: string | null };
  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt: Date;
  @Column({ type: 'timestamptz', name: 'expires_at' })
  expiresAt: Date;
  @Column({ type: 'timestamptz', name: 'last_used_at', nullable: true })
  lastUsedAt: Date | null;
}
