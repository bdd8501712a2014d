import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { KeptRecordsModule } from '../../keeping/records/keptRecords.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ForwardingModule } from '../forwarding/forwarding.module.ts';
import { LinksModule } from '../links/links.module.ts';
import { ScrapingModule } from '../scraping/scraping.module.ts';
import { KeyTokens } from './keyTokens.ts';
import { LineQuotas } from './lineQuotas.service.ts';
import { OriginsService } from './origins.service.ts';
import { OwnPatterns } from './ownPatterns.ts';
import { PushController } from './push.controller.ts';
import { PushService } from './push.service.ts';
import { PushStore } from './push.store.ts';
import { PushCounts } from './pushCounts.ts';
import { PushedLines } from './pushedLines.service.ts';
import { PushedSpans } from './pushedSpans.service.ts';
import { PushGrpc } from './pushGrpc.service.ts';
import { PushTaking } from './pushTaking.service.ts';
import { SpanRequests } from './spanRequests.service.ts';

@Module({
  imports: [
    ConfigurationModule,
    ConnectionsModule,
    ForwardingModule,
    LinksModule,
    InventoryModule,
    KeptRecordsModule,
    ScrapingModule,
    StoreModule,
  ],
  controllers: [PushController],
  providers: [
    KeyTokens,
    LineQuotas,
    PushCounts,
    OriginsService,
    PushedLines,
    PushGrpc,
    PushService,
    PushStore,
    PushTaking,
    OwnPatterns,
    PushedSpans,
    SpanRequests,
  ],
  exports: [PushService, OwnPatterns, SpanRequests, LineQuotas],
})
export class PushModule {}
