import { type DynamicModule, Global, Module } from '@nestjs/common';
import { AddressGuard } from './addressGuard.ts';
import { BegunAnew } from './begunAnew.ts';
import type { Config } from './config.ts';
import { ServerLog } from './logger.ts';
import { LoopWatch } from './loopWatch.ts';
import { OwnFigures } from './ownFigures.ts';
import { Secrets } from './secrets.ts';
import { Clock, Settings } from './settings.ts';
import { Turns } from './turns.ts';
import { Unforeseen } from './unforeseen.ts';

/** What every capability may use. */
@Global()
@Module({})
export class PlatformModule {
  static for(config: Config, log: ServerLog): DynamicModule {
    const provided = [
      { provide: Settings, useValue: new Settings(config) },
      { provide: ServerLog, useValue: log },
      { provide: Clock, useValue: new Clock() },
      { provide: Secrets, useFactory: () => new Secrets(config.dataDir) },
      { provide: LoopWatch, useClass: LoopWatch },
      { provide: Unforeseen, useClass: Unforeseen },
      { provide: BegunAnew, useClass: BegunAnew },
      { provide: Turns, useValue: new Turns() },
      { provide: OwnFigures, useValue: new OwnFigures() },
      { provide: AddressGuard, useFactory: () => new AddressGuard(config.allowAddresses, config.databaseUrl) },
    ];
    return { module: PlatformModule, providers: provided, exports: provided.map(({ provide }) => provide) };
  }
}
