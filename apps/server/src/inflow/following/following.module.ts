import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { KeptRecordsModule } from '../../keeping/records/keptRecords.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ConnectionsModule } from '../connections/connections.module.ts';
import { ForwardingModule } from '../forwarding/forwarding.module.ts';
import { PushModule } from '../push/push.module.ts';
import { FollowStore } from './follow.store.ts';
import { FollowingService } from './following.service.ts';

@Module({
  imports: [
    ConfigurationModule,
    ConnectionsModule,
    ForwardingModule,
    InventoryModule,
    KeptRecordsModule,
    LiveModule,
    PushModule,
    StoreModule,
  ],
  providers: [FollowingService, FollowStore],
  exports: [FollowingService],
})
export class FollowingModule {}
