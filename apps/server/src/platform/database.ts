import 'reflect-metadata';
import pg from 'pg';
import { DataSource, type DataSourceOptions } from 'typeorm';
import { PersonEntity, SessionEntity } from '../access/person.entity.ts';
import { ConnectionEntity } from '../connections/connection.entity.ts';
import { Ground1764000000000 } from '../migrations/1764000000000-ground.ts';
import { Audit1764100000000 } from '../migrations/1764100000000-audit.ts';
import { TeamEntity, TeamNamespaceEntity } from '../owners/team.entity.ts';
import { RuleEntity } from '../rules/rule.entity.ts';

// bigint columns hold milliseconds, far below 2^53: as numbers instead of the driver's text
const INT8 = 20;
pg.types.setTypeParser(INT8, Number);

export function dataSourceOptions(url: string): DataSourceOptions {
  return {
    type: 'postgres',
    url,
    entities: [PersonEntity, SessionEntity, ConnectionEntity, TeamEntity, TeamNamespaceEntity, RuleEntity],
    migrations: [Ground1764000000000, Audit1764100000000],
    synchronize: false,
    logging: false,
    extra: { max: 12, connectionTimeoutMillis: 5000 },
  };
}

export async function migrate(url: string): Promise<void> {
  const source = await new DataSource(dataSourceOptions(url)).initialize();
  try {
    await source.runMigrations({ transaction: 'each' });
  } finally {
    await source.destroy();
  }
}
