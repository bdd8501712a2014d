import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { FamilyOut } from '@zetopsis/core/exposition';
import { DataSource } from 'typeorm';
import { gauge } from '../../ground/platform/ownFigures.ts';

/** What the driver's pool tells of itself. */
interface Pool {
  readonly totalCount: number;
  readonly idleCount: number;
  readonly waitingCount: number;
}

/** How PostgreSQL is, as seen from here; nothing while it is away. */
@Injectable()
export class DatabaseFigures {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async families(): Promise<FamilyOut[]> {
    const { master } = this.database.driver as unknown as { readonly master: Pool }; // of PostgreSQL's driver
    const began = performance.now();
    let size: number;
    try {
      const [row]: { size: number }[] = await this.database.query(
        `select pg_database_size(current_database())::bigint as size`,
      );
      size = row!.size; // it always answers
    } catch {
      return [];
    }
    const took = (performance.now() - began) / 1000;
    return [
      gauge({
        name: 'database_connections',
        help: 'Connections to PostgreSQL, and questions that wait for one.',
        samples: [
          { labels: { state: 'busy' }, value: master.totalCount - master.idleCount },
          { labels: { state: 'idle' }, value: master.idleCount },
          { labels: { state: 'waited for' }, value: master.waitingCount },
        ],
      }),
      gauge({ name: 'database', unit: 'bytes', help: 'Size of the database.', samples: size }),
      gauge({
        name: 'database_answer',
        unit: 'seconds',
        help: 'How long PostgreSQL took to tell its size.',
        samples: took,
      }),
    ];
  }
}
