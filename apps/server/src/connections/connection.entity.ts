import { Column, CreateDateColumn, Entity, PrimaryGeneratedColumn } from 'typeorm';

@Entity({ name: 'connection' })
export class ConnectionEntity {
  @PrimaryGeneratedColumn('uuid')
  id: string;
  @Column({ type: 'text', unique: true })
  name: string;
  @Column({ type: 'text' })
  address: string;
  @Column({ type: 'text', name: 'token_encrypted' })
  tokenEncrypted: string;
  /** PEM; empty when the system's authorities vouch for the cluster. */
  @Column({ type: 'text' })
  authority: string;
  @Column({ type: 'text', name: 'node_page_path' })
  nodePagePath: string;
  @Column({ type: 'integer', name: 'interval_seconds' })
  intervalSeconds: number;
  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt: Date;
}
