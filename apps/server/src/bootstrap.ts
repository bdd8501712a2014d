import { existsSync } from 'node:fs';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import cookieParser from 'cookie-parser';
import type { NextFunction, Request, Response } from 'express';
import helmet from 'helmet';
import { pinoHttp } from 'pino-http';
import { AppModule } from './app.module.ts';
import type { Config } from './platform/config.ts';
import { ServerLog } from './platform/logger.ts';

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
  });
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
  app.getHttpServer().keepAliveTimeout = IDLE_CONNECTION;
  if (config.webDir !== null && existsSync(config.webDir)) serveWeb(app, config.webDir);
  return app;
}

/** Unknown pages get the app, which knows its own places; missing files and API routes get a 404. */
function serveWeb(app: NestExpressApplication, webDir: string): void {
  app.useStaticAssets(webDir, { index: false, maxAge: '1h' });
  app.use((request: Request, response: Response, next: NextFunction) => {
    const page =
      (request.method === 'GET' || request.method === 'HEAD') &&
      !/^\/(api|assets)\//.test(request.path) &&
      request.accepts('html');
    if (!page) return next();
    response.setHeader('cache-control', 'no-cache');
    response.sendFile('index.html', { root: webDir });
  });
}
