import { Column, Entity, JoinColumn, ManyToOne, OneToMany, PrimaryColumn, PrimaryGeneratedColumn } from 'typeorm';

@Entity({ name: 'team' })
export class TeamEntity {
  @PrimaryGeneratedColumn()
  id: number;
  @Column({ type: 'text', unique: true })
  name: string;
  @Column({ type: 'text' })
  email: string;
  @OneToMany(
    () => TeamNamespaceEntity,
    (owned) => owned.team,
    { cascade: true },
  )
  namespaces: TeamNamespaceEntity[];
}

/** A namespace has one owner, in every cluster it exists in. */
@Entity({ name: 'team_namespace' })
export class TeamNamespaceEntity {
  @PrimaryColumn({ type: 'text' })
  namespace: string;
  @ManyToOne(
    () => TeamEntity,
    (team) => team.namespaces,
    { nullable: false, onDelete: 'CASCADE', orphanedRowAction: 'delete' },
  )
  @JoinColumn({ name: 'team_id' })
  team: TeamEntity;
}
