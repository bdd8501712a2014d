import { execFileSync } from 'node:child_process';
import type { TestProject } from 'vitest/node';
import { startPostgres } from '../../../scripts/postgres.mjs';

declare module 'vitest' {
  export interface ProvidedContext {
    databaseUrl: string;
  }
}

/** A PostgreSQL of the tests' own; every test file makes its own database in it. */
export default async function setup(project: TestProject) {
  // what the server imports is what is built
  execFileSync(process.execPath, ['node_modules/typescript7/bin/tsc', '-b', 'apps/server', 'apps/standin'], {
    stdio: 'inherit',
  });
  const postgres = await startPostgres({ name: 'test-postgres', port: 25_700, durable: false });
  project.provide('databaseUrl', postgres.url);
  return () => {
    try {
      postgres.stop();
    } catch {
      // one PostgreSQL for all projects: the first that ends stops it
    }
  };
}
