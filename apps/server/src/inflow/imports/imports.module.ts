import { Module } from '@nestjs/common';
import { AuditModule } from '../../ground/audit/audit.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { ImportStore } from './import.store.ts';
import { ImportsController } from './imports.controller.ts';
import { ImportsService } from './imports.service.ts';

/** Bringing in the past. */
@Module({
  imports: [AuditModule, ConnectionsModule, ScrapingModule, StoreModule, LiveModule],
  controllers: [ImportsController],
  providers: [ImportsService, ImportStore],
  exports: [ImportsService],
})
export class ImportsModule {}
