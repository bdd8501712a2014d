import { Module } from '@nestjs/common';
import { LiveModule } from '../../ground/live/live.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ImportsModule } from '../imports/imports.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { CountedFlows } from './countedFlows.service.ts';
import { LinkEnds } from './linkEnds.service.ts';
import { LinksService } from './links.service.ts';
import { PastLinks } from './pastLinks.service.ts';
import { WireLinks } from './wireLinks.service.ts';

@Module({
  imports: [ConnectionsModule, ImportsModule, InventoryModule, LiveModule, ScrapingModule, StoreModule],
  providers: [CountedFlows, LinkEnds, LinksService, PastLinks, WireLinks],
  exports: [LinkEnds, LinksService],
})
export class LinksModule {}
