interface Installation {
  readonly databaseUrl: string;
  readonly dataDir: string;
  readonly file: string;
}
export function backUp(installation: Installation): Promise<void>;
export function restore(installation: Installation): Promise<void>;
