import { type DynamicModule, Module, StandardSchemaValidationPipe } from '@nestjs/common';
import { APP_FILTER, APP_GUARD, APP_INTERCEPTOR, APP_PIPE } from '@nestjs/core';
import { ThrottlerModule } from '@nestjs/throttler';
import { TypeOrmModule } from '@nestjs/typeorm';
import { AccessGuard } from './asking/access/access.guard.ts';
import { AccessModule } from './asking/access/access.module.ts';
import { AddressLimits, LIMITS_BY_ADDRESS } from './asking/access/tries.guard.ts';
import { CoverageModule } from './asking/coverage/coverage.module.ts';
import { FindModule } from './asking/find/find.module.ts';
import { FollowsModule } from './asking/follows/follows.module.ts';
import { MapModule } from './asking/map/map.module.ts';
import { MasksModule } from './asking/masks/masks.module.ts';
import { MeasuresModule } from './asking/measures/measures.module.ts';
import { NewsModule } from './asking/news/news.module.ts';
import { NowModule } from './asking/now/now.module.ts';
import { RecordsModule } from './asking/records/records.module.ts';
import { UsageModule } from './asking/usage/usage.module.ts';
import { ViewsModule } from './asking/views/views.module.ts';
import { AuditInterceptor } from './ground/audit/audit.interceptor.ts';
import { AuditModule } from './ground/audit/audit.module.ts';
import { ConfigurationModule } from './ground/configuration/configuration.module.ts';
import type { Config } from './ground/platform/config.ts';
import { ServerLog } from './ground/platform/logger.ts';
import { PlatformModule } from './ground/platform/platform.module.ts';
import { RefusalFilter, schemaRefusal } from './ground/platform/refusals.ts';
import { RouteTimes } from './ground/platform/routeTimes.interceptor.ts';
import { ConnectionsModule } from './inflow/connections/connections.module.ts';
import { ImportsModule } from './inflow/imports/imports.module.ts';
import { PushModule } from './inflow/push/push.module.ts';
import { ScrapingModule } from './inflow/scraping/scraping.module.ts';
import { VitalsModule } from './inflow/vitals/vitals.module.ts';
import { RetentionModule } from './keeping/retention/retention.module.ts';
import { dataSourceOptions } from './keeping/tables/database.ts';
import { DemoModule } from './running/demo/demo.module.ts';
import { SelfModule } from './running/self/self.module.ts';
import { RulesModule } from './telling/rules/rules.module.ts';

@Module({})
export class AppModule {
  static for(config: Config, log: ServerLog): DynamicModule {
    return {
      module: AppModule,
      imports: [
        PlatformModule.for(config, log),
        ThrottlerModule.forRoot(LIMITS_BY_ADDRESS),
        TypeOrmModule.forRoot({
          ...dataSourceOptions(config.databaseUrl),
          autoLoadEntities: true,
          retryAttempts: 3,
          retryDelay: 1000,
        }),
        AuditModule,
        ConfigurationModule,
        AccessModule,
        NewsModule,
        ConnectionsModule,
        ScrapingModule,
        PushModule,
        VitalsModule,
        CoverageModule,
        RulesModule,
        RetentionModule,
        ImportsModule,
        UsageModule,
        RecordsModule,
        MapModule,
        MasksModule,
        FollowsModule,
        MeasuresModule,
        SelfModule,
        NowModule,
        FindModule,
        ViewsModule,
        DemoModule,
      ],
      providers: [
        { provide: APP_FILTER, useFactory: (own: ServerLog) => new RefusalFilter(own), inject: [ServerLog] },
        { provide: APP_PIPE, useFactory: () => new StandardSchemaValidationPipe({ exceptionFactory: schemaRefusal }) },
        { provide: APP_GUARD, useClass: AddressLimits },
        { provide: APP_GUARD, useExisting: AccessGuard },
        { provide: APP_INTERCEPTOR, useClass: RouteTimes },
        { provide: APP_INTERCEPTOR, useExisting: AuditInterceptor },
      ],
    };
  }
}
