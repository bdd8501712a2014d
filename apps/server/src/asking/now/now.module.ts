import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { AlertsModule } from '../../keeping/alerts/alerts.module.ts';
import { OutboxModule } from '../../keeping/outbox/outbox.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { NowController } from './now.controller.ts';
import { NowService } from './now.service.ts';
import { OwnStates } from './ownState.service.ts';

@Module({
  imports: [UsageModule, ConnectionsModule, ScrapingModule, AlertsModule, OwnersModule, OutboxModule, StoreModule],
  controllers: [NowController],
  providers: [NowService, OwnStates],
  exports: [OwnStates],
})
export class NowModule {}
