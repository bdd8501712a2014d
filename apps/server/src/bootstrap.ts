import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import cookieParser from 'cookie-parser';
import { type NextFunction, type Request, type Response, raw } from 'express';
import helmet from 'helmet';
import { pinoHttp } from 'pino-http';
import { AppModule } from './app.module.ts';
import type { Config } from './platform/config.ts';
import { ServerLog } from './platform/logger.ts';

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
    bodyParser: true,
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
  app.use(helmet({ contentSecurityPolicy: { directives: CONTENT_POLICY } }));
  app.use(cookieParser());
  app.enableShutdownHooks();
  app.useBodyParser('json', { limit: '1mb' });
  // what is pushed; whose it is is known by its key alone, so the way there is short
  app.use('/api/push', raw({ type: PUSHED_TYPES, limit: '8mb' }));
  app.getHttpServer().keepAliveTimeout = IDLE_CONNECTION;
  if (config.webDir !== null && existsSync(config.webDir)) serveWeb(app, config.webDir, config.basePath);
  return app;
}

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
