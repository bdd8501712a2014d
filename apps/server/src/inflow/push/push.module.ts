import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { PushController } from './push.controller.ts';
import { PushService } from './push.service.ts';
import { PushStore } from './push.store.ts';

@Module({
  imports: [ConfigurationModule, ConnectionsModule, ScrapingModule, StoreModule],
  controllers: [PushController],
  providers: [PushService, PushStore],
})
export class PushModule {}
