import pg from 'pg';

/** Thrown when another process holds the lease: nothing was written. */
export class LeaseLost extends Error {
  constructor() {
    super('another process of Zetopsis has taken over the writing');
  }
}

/**
 * Rows of a window are sorted in memory: series by series. Lists of series that are asked for lead to rows by their key, one
 * by one: never is a whole partition read for them.
 */
const SESSION = `set work_mem = '64MB'; set enable_hashjoin = off; set enable_mergejoin = off`;

/** A connection for work that the ordinary pool is not made for; made anew after it broke. */
export class WorkClient {
  private client: pg.Client | null = null;
  constructor(private readonly url: string) {}

  async use<T>(work: (client: pg.Client) => Promise<T>): Promise<T> {
    if (!this.client) {
      const client = new pg.Client({ connectionString: this.url, connectionTimeoutMillis: 5000 });
      client.on('error', () => {
        if (this.client === client) this.client = null;
      });
      await client.connect();
      await client.query(SESSION);
      this.client = client;
    }
    const { client } = this;
    try {
      return await work(client);
    } catch (error) {
      // whatever state it is in, the next one begins afresh
      if (this.client === client) this.client = null;
      await client.end().catch(() => undefined);
      throw error;
    }
  }
  /** Everything or nothing, and nothing once the lease is another's. */
  async write<T>(epoch: number, work: (client: pg.Client) => Promise<T>): Promise<T> {
    return this.use(async (client) => {
      await client.query('begin');
      const { rowCount } = await client.query(`select 1 from lease where name = 'store' and epoch = $1 for key share`, [
        epoch,
      ]);
      if (rowCount !== 1) throw new LeaseLost();
      const result = await work(client);
      await client.query('commit');
      return result;
    });
  }
  async end(): Promise<void> {
    const { client } = this;
    this.client = null;
    await client?.end().catch(() => undefined);
  }
}
