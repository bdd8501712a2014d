export interface RunningDemo {
  readonly address: string;
  readonly password: string;
  readonly world: {
    readonly mailPage: string;
    readonly programs: { readonly plain: string; readonly tls: string };
    readonly control: string;
    readonly clusters: readonly {
      readonly name: string;
      readonly address: string;
      readonly token: string;
      readonly narrowToken: string;
      readonly authority: string;
    }[];
  };
  stop(): Promise<void>;
  stopStandIn(): Promise<void>;
  startStandIn(): Promise<void>;
}
export function startDemo(options: {
  folder: string;
  database?: { name?: string; port?: number; durable?: boolean };
  port?: number;
  standInPort?: number;
  pace?: number;
  intervalSeconds?: number;
  historyHours?: number;
}): Promise<RunningDemo>;
