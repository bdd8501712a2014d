import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { StretchesModule } from '../stretches/stretches.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { FindController } from './find.controller.ts';
import { FindService } from './find.service.ts';

@Module({
  imports: [
    ConnectionsModule,
    InventoryModule,
    OwnersModule,
    ScrapingModule,
    UsageModule,
    ConfigurationModule,
    StretchesModule,
  ],
  controllers: [FindController],
  providers: [FindService],
})
export class FindModule {}
