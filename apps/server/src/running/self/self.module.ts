import { Module } from '@nestjs/common';
import { UsageModule } from '../../asking/usage/usage.module.ts';
import { PushModule } from '../../inflow/push/push.module.ts';
import { ScrapingModule } from '../../inflow/scraping/scraping.module.ts';
import { OutboxModule } from '../../keeping/outbox/outbox.module.ts';
import { KeptRecordsModule } from '../../keeping/records/keptRecords.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { DatabaseFigures } from './databaseFigures.ts';
import { OwnLines } from './ownLines.service.ts';
import { SelfController } from './self.controller.ts';
import { SelfService } from './self.service.ts';

@Module({
  imports: [KeptRecordsModule, OutboxModule, PushModule, ScrapingModule, StoreModule, UsageModule],
  controllers: [SelfController],
  providers: [DatabaseFigures, OwnLines, SelfService],
})
export class SelfModule {}
