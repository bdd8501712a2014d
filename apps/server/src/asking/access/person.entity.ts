import {
  Column,
  CreateDateColumn,
  Entity,
  type EntityManager,
  JoinColumn,
  ManyToOne,
  PrimaryColumn,
  PrimaryGeneratedColumn,
  type Repository,
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

/** Changes of people that depend on who else there is are made one after the other, each in one transaction. */
export function changingPeople<T>(
  people: Repository<PersonEntity>,
  work: (people: Repository<PersonEntity>, manager: EntityManager) => Promise<T>,
): Promise<T> {
  return people.manager.transaction(async (manager) => {
    await manager.query('lock table person in share row exclusive mode');
    return work(manager.getRepository(PersonEntity), manager);
  });
}
