import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { ConnectionsModule } from '../../inflow/connections/connections.module.ts';
import { FollowingModule } from '../../inflow/following/following.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { FollowsController } from './follows.controller.ts';
import { FollowsService } from './follows.service.ts';

@Module({
  imports: [ConfigurationModule, ConnectionsModule, FollowingModule, InventoryModule, OwnersModule],
  controllers: [FollowsController],
  providers: [FollowsService],
})
export class FollowsModule {}
