import {
  status as Code,
  Metadata,
  Server,
  ServerCredentials,
  ServerInterceptingCall,
  type ServerInterceptor,
} from '@grpc/grpc-js';
import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Settings } from '../../ground/platform/settings.ts';
import { encodeAnswer, encodeRetry } from './decodeRequest.ts';
import { PushService } from './push.service.ts';
import type { PushedBy } from './pushRequest.ts';
import { PushTaking } from './pushTaking.service.ts';
import { GRPC_DETAILS, SIGNALS, type Signal } from './wire-names.ts';

const LARGEST = 8 * 1024 * 1024;
const CODES: Record<Refusal['code'], Code> = {
  invalid: Code.INVALID_ARGUMENT,
  notSignedIn: Code.UNAUTHENTICATED,
  notAllowed: Code.PERMISSION_DENIED,
  notFound: Code.NOT_FOUND,
  conflict: Code.ABORTED,
  gone: Code.NOT_FOUND,
  tooLarge: Code.INVALID_ARGUMENT,
  // what may be sent again: the protocol's clients wait for as long as they are told
  tooMany: Code.UNAVAILABLE,
  unavailable: Code.UNAVAILABLE,
};
const asIs = (bytes: Buffer): Buffer => bytes;

/** The same pushes over gRPC, on a port of its own. */
@Injectable()
export class PushGrpc implements OnApplicationBootstrap, OnApplicationShutdown {
  private server: Server | null = null;
  /** Where it listens; null where it does not. */
  port: number | null = null;
  private readonly admitted = new WeakMap<Metadata, PushedBy>();

  constructor(
    private readonly push: PushService,
    private readonly taking: PushTaking,
    private readonly settings: Settings,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const { grpcPort, host, tls } = this.settings.config;
    if (grpcPort === null) return;
    const server = new Server({
      'grpc.max_receive_message_length': LARGEST,
      'grpc.max_concurrent_streams': 100,
      interceptors: [this.admit],
    });
    for (const signal of Object.keys(SIGNALS) as Signal[]) this.serve(server, signal);
    const credentials = tls
      ? ServerCredentials.createSsl(null, [{ cert_chain: tls.cert, private_key: tls.key }])
      : ServerCredentials.createInsecure();
    const place = `${host.includes(':') ? `[${host}]` : host}:${grpcPort}`;
    await new Promise<void>((done) => {
      server.bindAsync(place, credentials, (error, port) => {
        if (error) this.log.failure('grpcNotListening', error, { place });
        else this.port = port;
        done();
      });
    });
    this.server = server;
  }
  async onApplicationShutdown(): Promise<void> {
    const { server } = this;
    if (server) await new Promise<void>((done) => server.tryShutdown(() => done()));
  }

  /** A key is looked at before anything of a message is read. */
  private readonly admit: ServerInterceptor = (_method, call) =>
    new ServerInterceptingCall(call, {
      start: (next) => {
        let done = () => {};
        next({
          onReceiveMetadata: (metadata, goOn) => {
            const [authorization] = metadata.get('authorization');
            this.push.admit(typeof authorization === 'string' ? authorization : undefined).then(
              ({ done: over, ...by }) => {
                done = over;
                this.admitted.set(metadata, by);
                goOn(metadata);
              },
              (error: unknown) => call.sendStatus(this.statusOf(error)),
            );
          },
          onReceiveMessage: (message, goOn) => goOn(message),
          onReceiveHalfClose: (goOn) => goOn(),
          onCancel: () => done(),
        });
        this.ends.set(call, () => done());
      },
      sendStatus: (status, next) => {
        this.ends.get(call)?.();
        next(status);
      },
    });
  private readonly ends = new WeakMap<object, () => void>();

  private serve(server: Server, signal: Signal): void {
    server.addService(
      {
        export: {
          path: SIGNALS[signal].grpc,
          requestStream: false,
          responseStream: false,
          requestSerialize: asIs,
          requestDeserialize: asIs,
          responseSerialize: asIs,
          responseDeserialize: asIs,
        },
      },
      {
        export: (
          call: { readonly request: Buffer; readonly metadata: Metadata },
          answer: (error: ReturnType<PushGrpc['statusOf']> | null, bytes?: Buffer) => void,
        ) => {
          const by = this.admitted.get(call.metadata);
          if (!by) return answer(this.statusOf(new Refusal('notSignedIn', 'This push key is not known.')));
          this.taking.takeBinary(signal, by, call.request).then(
            ({ refused, problem }) => answer(null, encodeAnswer(refused, problem)),
            (error: unknown) => answer(this.statusOf(error)),
          );
        },
      },
    );
  }
  private statusOf(error: unknown) {
    if (!(error instanceof Refusal)) {
      this.log.failure('grpcFailed', error);
      return {
        code: Code.INTERNAL,
        details: 'Something went wrong; the server’s log says what.',
        metadata: new Metadata(),
      };
    }
    const metadata = new Metadata();
    if (error.retryAfter !== null)
      metadata.set(GRPC_DETAILS, encodeRetry(CODES[error.code], error.message, error.retryAfter));
    return { code: CODES[error.code], details: error.message, metadata };
  }
}
