import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { DataSource } from 'typeorm';

export interface ViewRow {
  readonly id: number;
  readonly personId: string;
  readonly by: string;
  readonly name: string;
  readonly address: string;
  readonly team: string | null;
}

/** Views that people kept. */
@Injectable()
export class ViewsStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  /** One's own, and those of the teams. */
  async list(personId: string, teams: readonly string[]): Promise<ViewRow[]> {
    const rows: { id: number; person_id: string; by: string; name: string; address: string; team: string | null }[] =
      await this.database.query(
        `select v.id, v.person_id, p.name as by, v.name, v.address, v.team from saved_view v join person p on p.id = v.person_id
          where v.person_id = $1 or v.team = any($2) order by v.name, v.id limit 500`,
        [personId, teams],
      );
    return rows.map(({ person_id, ...row }) => ({ ...row, personId: person_id }));
  }
  async count(personId: string): Promise<number> {
    const [row]: { count: number }[] = await this.database.query(
      `select count(*)::int as count from saved_view where person_id = $1`,
      [personId],
    );
    return row!.count; // an aggregate always has a row
  }
  async add(personId: string, { name, address, team }: Pick<ViewRow, 'name' | 'address' | 'team'>): Promise<void> {
    await this.database.query(`insert into saved_view (person_id, name, address, team) values ($1, $2, $3, $4)`, [
      personId,
      name,
      address,
      team,
    ]);
  }
  async remove(personId: string, id: number): Promise<boolean> {
    const [, count]: [unknown, number] = await this.database.query(
      `delete from saved_view where id = $2 and person_id = $1`,
      [personId, id],
    );
    return count > 0;
  }
}
