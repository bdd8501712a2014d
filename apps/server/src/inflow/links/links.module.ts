import { Module } from '@nestjs/common';
import { LiveModule } from '../../ground/live/live.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { CountedFlows } from './countedFlows.service.ts';
import { LinkEnds } from './linkEnds.service.ts';
import { LinksService } from './links.service.ts';
import { WireLinks } from './wireLinks.service.ts';

@Module({
  imports: [ConnectionsModule, InventoryModule, LiveModule, ScrapingModule, StoreModule],
  providers: [CountedFlows, LinkEnds, LinksService, WireLinks],
  exports: [LinkEnds, LinksService],
})
export class LinksModule {}
