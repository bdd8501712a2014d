import { Module } from '@nestjs/common';
import { AccessModule } from '../../asking/access/access.module.ts';
import { OwnersModule } from '../../asking/owners/owners.module.ts';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ImportsModule } from '../../inflow/imports/imports.module.ts';
import { PushModule } from '../../inflow/push/push.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { DemoService } from './demo.service.ts';
import { DemoPrograms } from './demoPrograms.ts';

@Module({
  imports: [
    AccessModule,
    ConfigurationModule,
    ConnectionsModule,
    OwnersModule,
    PushModule,
    ScrapingModule,
    ImportsModule,
  ],
  providers: [DemoPrograms, DemoService],
  exports: [DemoService],
})
export class DemoModule {}
