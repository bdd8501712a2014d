import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { InventoryModule } from '../../keeping/inventory/inventory.module.ts';
import { ClusterTurns } from './clusterTurns.ts';
import { ConnectionEntity } from './connection.entity.ts';
import { ConnectionsController } from './connections.controller.ts';
import { ConnectionsService } from './connections.service.ts';
import { ConnectionTester } from './connectionTester.ts';

@Module({
  imports: [TypeOrmModule.forFeature([ConnectionEntity]), ConfigurationModule, InventoryModule, LiveModule],
  controllers: [ConnectionsController],
  providers: [ClusterTurns, ConnectionTester, ConnectionsService],
  exports: [ClusterTurns, ConnectionsService],
})
export class ConnectionsModule {}
