import { Column, CreateDateColumn, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** What is kept of a cluster beside its document: its identity and its token. */
@Entity({ name: 'connection' })
export class ConnectionEntity {
  @PrimaryGeneratedColumn('uuid')
  id: string;
  @Column({ type: 'text', unique: true })
  name: string;
  /** Empty until somebody enters one: a cluster read from a file comes without. */
  @Column({ type: 'text', name: 'token_encrypted' })
  tokenEncrypted: string;
  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt: Date;
}
