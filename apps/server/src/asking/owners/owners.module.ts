import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { OutboxModule } from '../../keeping/outbox/outbox.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { CriticalityController } from './criticality.controller.ts';
import { CriticalityService } from './criticality.service.ts';
import { KeptForTeams } from './keptForTeams.service.ts';
import { OwnersService } from './owners.service.ts';
import { TeamsController } from './teams.controller.ts';

@Module({
  imports: [
    ConfigurationModule,
    ConnectionsModule,
    InventoryModule,
    OutboxModule,
    LiveModule,
    ScrapingModule,
    StoreModule,
  ],
  controllers: [CriticalityController, TeamsController],
  providers: [CriticalityService, KeptForTeams, OwnersService],
  exports: [CriticalityService, KeptForTeams, OwnersService],
})
export class OwnersModule {}
