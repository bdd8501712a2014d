import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { DemoService } from './demo.service.ts';

@Module({
  imports: [AccessModule, ConnectionsModule, OwnersModule, ScrapingModule, StoreModule],
  providers: [DemoService],
  exports: [DemoService],
})
export class DemoModule {}
