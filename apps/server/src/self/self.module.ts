import { Module } from '@nestjs/common';
import { DeliveryModule } from '../delivery/delivery.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { SelfController } from './self.controller.ts';
import { SelfService } from './self.service.ts';

@Module({
  imports: [DeliveryModule, ScrapingModule, StoreModule, UsageModule],
  controllers: [SelfController],
  providers: [SelfService],
})
export class SelfModule {}
