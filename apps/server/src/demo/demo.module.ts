import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.ts';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ImportsModule } from '../imports/imports.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { DemoService } from './demo.service.ts';

@Module({
  imports: [AccessModule, ConfigurationModule, ConnectionsModule, OwnersModule, ScrapingModule, ImportsModule],
  providers: [DemoService],
  exports: [DemoService],
})
export class DemoModule {}
