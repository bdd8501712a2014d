import { Module } from '@nestjs/common';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { RulesModule } from '../rules/rules.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { UsageModule } from '../usage/usage.module.ts';
import { FindController } from './find.controller.ts';
import { FindService } from './find.service.ts';

@Module({
  imports: [ConnectionsModule, InventoryModule, ScrapingModule, UsageModule, RulesModule],
  controllers: [FindController],
  providers: [FindService],
})
export class FindModule {}
