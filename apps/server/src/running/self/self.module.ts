import { Module } from '@nestjs/common';
import { UsageModule } from '../../asking/usage/usage.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { OutboxModule } from '../../keeping/outbox/outbox.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { SelfController } from './self.controller.ts';
import { SelfService } from './self.service.ts';

@Module({
  imports: [OutboxModule, ScrapingModule, StoreModule, UsageModule],
  controllers: [SelfController],
  providers: [SelfService],
})
export class SelfModule {}
