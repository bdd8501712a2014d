import {
  Column,
  CreateDateColumn,
  Entity,
  JoinColumn,
  ManyToOne,
  PrimaryColumn,
  PrimaryGeneratedColumn,
} from 'typeorm';

@Entity({ name: 'person' })
export class PersonEntity {
  @PrimaryGeneratedColumn('uuid')
  id: string;
  @Column({ type: 'text', unique: true })
  name: string;
  @Column({ type: 'text', name: 'password_hash' })
  passwordHash: string;
  @Column({ type: 'text' })
  role: 'administrator' | 'member';
  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt: Date;
  @Column({ type: 'timestamptz', name: 'last_sign_in_at', nullable: true })
  lastSignInAt: Date | null;
}

/** Only a hash of the cookie's secret is stored: a copy of the table opens no session. */
@Entity({ name: 'session' })
export class SessionEntity {
  @PrimaryColumn({ type: 'text', name: 'id_hash' })
  idHash: string;
  @ManyToOne(() => PersonEntity, { nullable: false, onDelete: 'CASCADE' })
  @JoinColumn({ name: 'person_id' })
  person: PersonEntity;
  @Column({ type: 'timestamptz', name: 'expires_at' })
  expiresAt: Date;
}
