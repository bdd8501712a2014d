import { type DynamicModule, Module, StandardSchemaValidationPipe } from '@nestjs/common';
import { APP_FILTER, APP_GUARD, APP_INTERCEPTOR, APP_PIPE } from '@nestjs/core';
import { ThrottlerModule } from '@nestjs/throttler';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AccessGuard } from './access/access.guard.ts';
import { AccessModule } from './access/access.module.ts';
import { AddressLimits, LIMITS_BY_ADDRESS } from './access/tries.guard.ts';
import { AuditInterceptor } from './audit/audit.interceptor.ts';
import { AuditModule } from './audit/audit.module.ts';
import { ConfigurationModule } from './configuration/configuration.module.ts';
import { ConnectionsModule } from './connections/connections.module.ts';
import { CoverageModule } from './coverage/coverage.module.ts';
import { DemoModule } from './demo/demo.module.ts';
import { FindModule } from './find/find.module.ts';
import { ImportsModule } from './imports/imports.module.ts';
import { LiveController } from './live/live.controller.ts';
import { LiveModule } from './live/live.module.ts';
import { NowModule } from './now/now.module.ts';
import type { Config } from './platform/config.ts';
import { dataSourceOptions } from './platform/database.ts';
import { ServerLog } from './platform/logger.ts';
import { PlatformModule } from './platform/platform.module.ts';
import { RefusalFilter, schemaRefusal } from './platform/refusals.ts';
import { PushModule } from './push/push.module.ts';
import { RetentionModule } from './retention/retention.module.ts';
import { RulesModule } from './rules/rules.module.ts';
import { ScrapingModule } from './scraping/scraping.module.ts';
import { SelfModule } from './self/self.module.ts';
import { UsageModule } from './usage/usage.module.ts';
import { ViewsModule } from './views/views.module.ts';
import { VitalsModule } from './vitals/vitals.module.ts';

@Module({})
export class AppModule {
  static for(config: Config, log: ServerLog): DynamicModule {
    return {
      module: AppModule,
      imports: [
        PlatformModule.for(config, log),
        ThrottlerModule.forRoot(LIMITS_BY_ADDRESS),
        TypeOrmModule.forRoot({ ...dataSourceOptions(config.databaseUrl), retryAttempts: 3, retryDelay: 1000 }),
        AuditModule,
        ConfigurationModule,
        AccessModule,
        LiveModule,
        ConnectionsModule,
        ScrapingModule,
        PushModule,
        VitalsModule,
        CoverageModule,
        RulesModule,
        RetentionModule,
        ImportsModule,
        UsageModule,
        SelfModule,
        NowModule,
        FindModule,
        ViewsModule,
        DemoModule,
      ],
      controllers: [LiveController],
      providers: [
        { provide: APP_FILTER, useFactory: (own: ServerLog) => new RefusalFilter(own), inject: [ServerLog] },
        { provide: APP_PIPE, useFactory: () => new StandardSchemaValidationPipe({ exceptionFactory: schemaRefusal }) },
        { provide: APP_GUARD, useClass: AddressLimits },
        { provide: APP_GUARD, useExisting: AccessGuard },
        { provide: APP_INTERCEPTOR, useExisting: AuditInterceptor },
      ],
    };
  }
}
