/** What else needs of a connection: to read its nodes' pages. */
export interface ConnectionAccess {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly token: string;
  readonly authority: string;
  readonly pagePath: string;
  readonly intervalMs: number;
}
