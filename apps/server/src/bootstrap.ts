import { existsSync, readFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import cookieParser from 'cookie-parser';
import { json, type NextFunction, type Request, type Response, raw } from 'express';
import helmet from 'helmet';
import { pinoHttp } from 'pino-http';
import { AppModule } from './app.module.ts';
import { AccessGuard } from './asking/access/access.guard.ts';
import type { Config } from './ground/platform/config.ts';
import { ServerLog } from './ground/platform/logger.ts';
import { askedBy, Question } from './ground/platform/question.ts';
import { PushService } from './inflow/push/push.service.ts';
import type { PushRequest } from './inflow/push/pushRequest.ts';

const PUSHED_TYPES = ['application/x-protobuf', 'text/plain', 'application/openmetrics-text'];
const CONTENT_POLICY = {
  'default-src': ["'self'"],
  'script-src': ["'self'"],
  // charts and Radix place their parts by style attributes
  'style-src': ["'self'", "'unsafe-inline'"],
  'img-src': ["'self'", 'data:'],
  'connect-src': ["'self'"],
  'frame-ancestors': ["'none'"],
  'upgrade-insecure-requests': null,
};

/** Longer than proxies and clients keep an idle connection, or a request may meet one that is just being closed. */
const IDLE_CONNECTION = 75_000; // ms

export async function createApp(config: Config): Promise<NestExpressApplication> {
  const log = ServerLog.create(config.logLevel);
  const app = await NestFactory.create<NestExpressApplication>(AppModule.for(config, log), {
    logger: log,
    bodyParser: false,
    // pages that stay open, and requests that never end, do not hold up the end
    forceCloseConnections: true,
    ...(config.tls ? { httpsOptions: config.tls } : {}),
  });
  if (config.trustProxy.length > 0) app.set('trust proxy', [...config.trustProxy]);
  if (config.basePath !== '') app.use(below(config.basePath));
  app.use(
    pinoHttp({
      logger: log.pino,
      customLogLevel: (_request, response, error) => (error || response.statusCode >= 500 ? 'error' : 'debug'),
    }),
  );
  app.use(asked);
  app.use('/api', (_request: Request, response: Response, next: NextFunction) => {
    // an answer is for who asked, and for now
    response.setHeader('cache-control', 'no-store');
    next();
  });
  app.use(helmet({ contentSecurityPolicy: { directives: CONTENT_POLICY } }));
  app.use(cookieParser());
  app.enableShutdownHooks();
  takeBodies(app);
  const server: Server = app.getHttpServer();
  server.keepAliveTimeout = IDLE_CONNECTION;
  server.headersTimeout = SENDING_HEADERS;
  if (config.webDir !== null && existsSync(config.webDir)) serveWeb(app, config.webDir, config.basePath);
  return app;
}

/** Whoever is not done with sending by then is hung up on; an import of somebody known may take longer. */
const SENDING_HEADERS = 20_000; // ms
const SENDING_PUSH = 60_000; // ms
const SENDING_OF_STRANGERS = 15_000; // ms
function hurry(request: Request, within: number): void {
  const timer = setTimeout(() => request.destroy(), within);
  for (const event of ['end', 'close']) request.once(event, () => clearTimeout(timer));
}

const allowing = (origin: string) => ({
  'access-control-allow-origin': origin,
  'access-control-allow-methods': 'POST',
  'access-control-allow-headers': 'authorization, content-type, content-encoding',
  vary: 'origin',
});

/** Nothing of a stranger's is kept in memory but what signing in takes: a body is read once it is known who sends it. */
function takeBodies(app: NestExpressApplication): void {
  const pushes = app.get(PushService, { strict: false });
  app.use('/api/push', async (request: PushRequest, response: Response, next: NextFunction) => {
    const { origin } = request.headers;
    // a browser asks first, without a token
    if (request.method === 'OPTIONS' && origin !== undefined && pushes.takesFrom(origin)) {
      response.writeHead(204, { ...allowing(origin), 'access-control-max-age': '600' }).end();
      return;
    }
    if (request.method !== 'POST') return next();
    try {
      const { done, ...pushedBy } = await pushes.admit(request.headers.authorization, origin);
      if (origin !== undefined)
        for (const [name, value] of Object.entries(allowing(origin))) response.setHeader(name, value);
      response.once('close', done);
      request.pushedBy = pushedBy;
      hurry(request, SENDING_PUSH);
      next();
    } catch (error) {
      // what it sends is not read to its end
      response.setHeader('connection', 'close');
      next(error);
    }
  });
  // parsed by who takes it: what was sent twice is known by its bytes
  app.use('/api/push', raw({ type: 'application/json', limit: '1mb' }), raw({ type: PUSHED_TYPES, limit: '8mb' }));
  const guard = app.get(AccessGuard, { strict: false });
  const [ofStrangers, ofPeople] = [json({ limit: '16kb' }), json({ limit: '1mb' })];
  app.use(async (request: PushRequest, response: Response, next: NextFunction) => {
    const { 'content-length': length, 'transfer-encoding': pieces } = request.headers;
    if (!Number(length) && pieces === undefined) return next();
    const known = request.pushedBy !== undefined || (await guard.recognises(request).catch(() => false));
    if (!known) hurry(request, SENDING_OF_STRANGERS);
    (known ? ofPeople : ofStrangers)(request, response, next);
  });
}

/** Questions that are too long for an address. */
const POSTED_QUESTIONS: ReadonlySet<string> = new Set([
  '/api/measures/evaluate',
  '/api/rules/rehearse',
  '/api/masks/preview',
]);
/** What only asks is worked out for who asks, and ended when they leave; what changes something is done to its end. */
const asked = (request: Request, response: Response, next: NextFunction) => {
  if (request.method !== 'GET' && request.method !== 'HEAD' && !POSTED_QUESTIONS.has(request.path)) return next();
  const question = new Question(request.path);
  response.once('close', () => question.leave());
  askedBy(question, next);
};

/** Whether a proxy takes the path off that Zetopsis stands under or hands it on, requests are answered alike. */
const below = (basePath: string) => (request: Request, _response: Response, next: NextFunction) => {
  if (request.url === basePath || request.url.startsWith(`${basePath}/`) || request.url.startsWith(`${basePath}?`))
    request.url = request.url.slice(basePath.length).replace(/^(?!\/)/, '/');
  next();
};

/** Unknown pages get the app, which knows its own places; missing files and API routes get a 404. */
function serveWeb(app: NestExpressApplication, webDir: string, basePath: string): void {
  const index = readFileSync(join(webDir, 'index.html'), 'utf8').replace('<base href="/"', `<base href="${basePath}/"`);
  app.useStaticAssets(webDir, { index: false, maxAge: '1h' });
  app.use((request: Request, response: Response, next: NextFunction) => {
    const page =
      (request.method === 'GET' || request.method === 'HEAD') &&
      !/^\/(api|assets)\//.test(request.path) &&
      request.accepts('html');
    if (!page) return next();
    response.setHeader('cache-control', 'no-cache');
    response.type('html').send(index);
  });
}
