import 'reflect-metadata';
import pg from 'pg';
import { DataSource, type DataSourceOptions } from 'typeorm';
import { Ground1764000000000 } from './migrations/1764000000000-ground.ts';
import { Audit1764100000000 } from './migrations/1764100000000-audit.ts';
import { Foundations1764200000000 } from './migrations/1764200000000-foundations.ts';
import { Store1764300000000 } from './migrations/1764300000000-store.ts';
import { Imports1764310000000 } from './migrations/1764310000000-imports.ts';
import { Endpoints1764400000000 } from './migrations/1764400000000-endpoints.ts';
import { Push1764500000000 } from './migrations/1764500000000-push.ts';
import { Sources1764600000000 } from './migrations/1764600000000-sources.ts';
import { BucketBorders1764700000000 } from './migrations/1764700000000-bucketBorders.ts';
import { RuleLevels1764800000000 } from './migrations/1764800000000-ruleLevels.ts';
import { Delivery1764900000000 } from './migrations/1764900000000-delivery.ts';
import { OwnGaps1765000000000 } from './migrations/1765000000000-ownGaps.ts';
import { Lines1765100000000 } from './migrations/1765100000000-lines.ts';
import { Traces1765200000000 } from './migrations/1765200000000-traces.ts';
import { TokenBefore1765300000000 } from './migrations/1765300000000-tokenBefore.ts';
import { LineDays1765400000000 } from './migrations/1765400000000-lineDays.ts';
import { Follows1765500000000 } from './migrations/1765500000000-follows.ts';
import { Forwards1765600000000 } from './migrations/1765600000000-forwards.ts';

// bigint columns hold milliseconds, far below 2^53: as numbers instead of the driver's text
const INT8 = 20;
pg.types.setTypeParser(INT8, Number);

export function dataSourceOptions(url: string): DataSourceOptions {
  return {
    type: 'postgres',
    url,
    migrations: [
      Ground1764000000000,
      Audit1764100000000,
      Foundations1764200000000,
      Store1764300000000,
      Imports1764310000000,
      Endpoints1764400000000,
      Push1764500000000,
      Sources1764600000000,
      BucketBorders1764700000000,
      RuleLevels1764800000000,
      Delivery1764900000000,
      OwnGaps1765000000000,
      Lines1765100000000,
      Traces1765200000000,
      TokenBefore1765300000000,
      LineDays1765400000000,
      Follows1765500000000,
      Forwards1765600000000,
    ],
    synchronize: false,
    logging: false,
    extra: { max: 12, connectionTimeoutMillis: 15_000 },
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
